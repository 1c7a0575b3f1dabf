package org.mnemex.sync.extract;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.util.HexFormat;
import java.util.Locale;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;

/**
 * Extracts the text of PDF, DOCX, HTML and plain text.
 *
 * <p>Each file is read on its own thread, which is abandoned when it takes too long: not every
 * library can be interrupted. Its slot is then free again, and the file is not retried for an hour.
 * While too many abandoned threads still run, no file is read. Text beyond {@link #MAX_CHARACTERS}
 * is cut off. Recent texts are cached, because a file is read again whenever its record changes.
 * Thread-safe.
 */
public final class TextExtractor {
  /** Larger files are not read from the database. */
  public static final long MAX_BYTES = 32L << 20;

  /** Longer texts are cut. */
  public static final int MAX_CHARACTERS = 1_000_000;

  private static final int KEPT_CHARACTERS = 16_000_000;
  private static final int AT_WORK = 4;
  private static final int MAX_GIVEN_UP = 32;
  private static final Duration NOT_TRIED_AGAIN = Duration.ofHours(1);
  private static final int MAX_REMEMBERED = 10_000;

  /** Shared by all extractors of this process. */
  private static final AtomicInteger GIVEN_UP = new AtomicInteger();

  private final Duration patience;
  private final Semaphore places = new Semaphore(AT_WORK);
  private final Cache<String, String> texts =
      Caffeine.newBuilder()
          .maximumWeight(KEPT_CHARACTERS)
          .weigher((String hash, String text) -> hash.length() + text.length())
          .build();

  /** Why a file took too long, by its hash. */
  private final Cache<String, String> tooLong =
      Caffeine.newBuilder().maximumSize(MAX_REMEMBERED).expireAfterWrite(NOT_TRIED_AGAIN).build();

  /** An extractor with the default time limit. */
  public TextExtractor() {
    this(Duration.ofSeconds(20));
  }

  /**
   * @param patience the time limit for one file
   */
  public TextExtractor(Duration patience) {
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
    String slow = tooLong.getIfPresent(hash);
    if (slow != null) {
      throw new ExtractionException(slow, null);
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
    if (GIVEN_UP.get() >= MAX_GIVEN_UP) {
      throw new ExtractionException(
          "%d files before it took too long and are still being read; it is read when they have ended, or after a restart"
              .formatted(MAX_GIVEN_UP),
          null);
    }
    try {
      if (!places.tryAcquire(patience.toMillis(), TimeUnit.MILLISECONDS)) {
        throw new ExtractionException(
            "%d other files are being read and take long".formatted(AT_WORK), null);
      }
      // Whichever comes first, the end of the thread or its abandonment, frees the slot.
      AtomicBoolean given = new AtomicBoolean();
      FutureTask<String> task =
          new FutureTask<>(
              () -> {
                try {
                  return kind.text(file, MAX_CHARACTERS);
                } catch (StackOverflowError | OutOfMemoryError e) {
                  throw new ExtractionException("the file needs more memory than allowed", e);
                } finally {
                  if (given.compareAndSet(false, true)) {
                    places.release();
                  } else {
                    GIVEN_UP.decrementAndGet();
                  }
                }
              });
      Thread.ofPlatform().name("extract").daemon().start(task);
      try {
        return task.get(patience.toMillis(), TimeUnit.MILLISECONDS);
      } catch (TimeoutException e) {
        if (given.compareAndSet(false, true)) {
          GIVEN_UP.incrementAndGet();
          places.release();
        }
        task.cancel(true);
        String why = "the %s takes longer than %d s to read".formatted(kind, patience.toSeconds());
        tooLong.put(hash, why);
        throw new ExtractionException(why, e);
      } catch (ExecutionException e) {
        throw e.getCause() instanceof ExtractionException known
            ? known
            : new ExtractionException(
                "the %s is damaged: %s".formatted(kind, message(e.getCause())), e.getCause());
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ExtractionException("interrupted", e);
    }
  }

  private static String message(Throwable cause) {
    String message = String.valueOf(cause.getMessage());
    String line = message.lines().findFirst().orElse("");
    return line.length() > 200 ? line.substring(0, 200) + "…" : line;
  }
}
