package org.mnemex.sync.extract;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.util.HexFormat;
import java.util.Locale;
import org.jspecify.annotations.Nullable;

/**
 * Extracts the text of PDF, DOCX, HTML and plain text.
 *
 * <p>Files are read in processes of their own, with limits on time and memory: a file that hangs or
 * needs too much ends its process and nothing else. It is not read again for an hour. Text beyond
 * {@link #MAX_CHARACTERS} is cut off. Recent texts are cached, because a file is read again
 * whenever its record changes. Thread-safe.
 */
public final class TextExtractor {
  /** Larger files are not read from the database. */
  public static final long MAX_BYTES = 32L << 20;

  /** Longer texts are cut. */
  public static final int MAX_CHARACTERS = 1_000_000;

  private static final int KEPT_CHARACTERS = 16_000_000;
  private static final Duration NOT_TRIED_AGAIN = Duration.ofHours(1);
  private static final int MAX_REMEMBERED = 10_000;

  private final Readers readers;
  private final Duration patience;
  private final Cache<String, String> texts =
      Caffeine.newBuilder()
          .maximumWeight(KEPT_CHARACTERS)
          .weigher((String hash, String text) -> hash.length() + text.length())
          .build();

  /** What a file did to its process, by its hash. */
  private final Cache<String, String> harmful =
      Caffeine.newBuilder().maximumSize(MAX_REMEMBERED).expireAfterWrite(NOT_TRIED_AGAIN).build();

  /** An extractor with the default limits, whose processes are shared by all of them. */
  public TextExtractor() {
    this(Readers.SHARED, Duration.ofSeconds(20));
  }

  /**
   * @param patience the time limit for one file
   */
  TextExtractor(Readers readers, Duration patience) {
    this.readers = readers;
    this.patience = patience;
  }

  /**
   * The text of a file.
   *
   * @param mediaType after RFC 6838, with or without parameters; null to detect it
   * @throws ExtractionException if it has none
   */
  public String text(byte[] file, @Nullable String mediaType) throws ExtractionException {
    FileKind kind = kind(file, mediaType);
    String hash = kind + hash(file);
    String known = texts.getIfPresent(hash);
    if (known != null) {
      return known;
    }
    String harm = harmful.getIfPresent(hash);
    if (harm != null) {
      throw new ExtractionException(harm, null);
    }
    String text = inTime(kind, file, hash);
    texts.put(hash, text);
    return text;
  }

  private static FileKind kind(byte[] file, @Nullable String mediaType) throws ExtractionException {
    if (mediaType == null || mediaType.isBlank()) {
      FileKind found = FileKind.of(file);
      if (found == null) {
        throw new ExtractionException(
            "the file is none of PDF, DOCX, HTML and plain text; name the column of its media type"
                + " under 'media'",
            null);
      }
      return found;
    }
    String plain = mediaType.split(";", 2)[0].strip().toLowerCase(Locale.ROOT);
    FileKind named = FileKind.named(plain);
    if (named == null) {
      throw new ExtractionException(
          "files of media type '%s' cannot be read; these can: %s"
              .formatted(plain, FileKind.names()),
          null);
    }
    return named;
  }

  private static String hash(byte[] file) {
    try {
      return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(file));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }

  private String inTime(FileKind kind, byte[] file, String hash) throws ExtractionException {
    try {
      return readers.read(kind, file, patience);
    } catch (ReaderLostException e) {
      String why = String.valueOf(e.getMessage());
      harmful.put(hash, why);
      throw new ExtractionException(why, e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ExtractionException("interrupted", e);
    }
  }
}
