package org.mnemex.sync.extract;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.Writer;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.apache.pdfbox.Loader;
import org.apache.pdfbox.io.MemoryUsageSetting;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.pdmodel.encryption.InvalidPasswordException;
import org.apache.pdfbox.text.PDFTextStripper;
import org.apache.poi.EncryptedDocumentException;
import org.apache.poi.openxml4j.util.ZipSecureFile;
import org.apache.poi.poifs.filesystem.FileMagic;
import org.apache.poi.xwpf.extractor.XWPFWordExtractor;
import org.apache.poi.xwpf.usermodel.XWPFDocument;
import org.jsoup.Jsoup;
import org.jspecify.annotations.Nullable;

/** Kinds of files whose text can be extracted. */
enum FileKind {
  PDF("application/pdf") {
    @Override
    String text(byte[] file, int most) throws IOException, ExtractionException {
      try (PDDocument document =
          Loader.loadPDF(
              file,
              "",
              null,
              null,
              MemoryUsageSetting.setupMainMemoryOnly(MAX_UNPACKED_BYTES).streamCache)) {
        StringBuilder out = new StringBuilder();
        new PDFTextStripper().writeText(document, new Limited(out, most));
        return out.toString();
      } catch (InvalidPasswordException e) {
        throw new ExtractionException("the PDF is encrypted and asks for a password", e);
      } catch (EnoughException e) {
        return e.text;
      }
    }
  },
  DOCX("application/vnd.openxmlformats-officedocument.wordprocessingml.document") {
    @Override
    String text(byte[] file, int most) throws IOException, ExtractionException {
      if (FileMagic.valueOf(file) == FileMagic.OLE2) {
        throw new ExtractionException(
            "the DOCX is encrypted, or it is a file of an older kind", null);
      }
      ZipSecureFile.setMaxEntrySize(MAX_UNPACKED_BYTES);
      ZipSecureFile.setMaxFileCount(MAX_PARTS);
      try (XWPFDocument document = new XWPFDocument(new ByteArrayInputStream(file));
          XWPFWordExtractor extractor = new XWPFWordExtractor(document)) {
        return cut(extractor.getText(), most);
      } catch (EncryptedDocumentException e) {
        throw new ExtractionException("the DOCX is encrypted", e);
      } catch (IOException | RuntimeException e) {
        String message = String.valueOf(e.getMessage());
        if (message.toLowerCase(Locale.ROOT).contains("zip bomb")
            || message.contains("too large")
            || message.contains("Max entry size")) {
          throw new ExtractionException(
              "the DOCX unpacks to more than %d MB, or to far more than its size"
                  .formatted(MAX_UNPACKED_BYTES >> 20),
              e);
        }
        throw e;
      }
    }
  },
  HTML("text/html", "application/xhtml+xml") {
    @Override
    String text(byte[] file, int most) throws IOException {
      // Without a character set: the file declares it, or it is UTF-8.
      return cut(
          HtmlText.of(Jsoup.parse(new ByteArrayInputStream(file), charsetOrNull(file), "")), most);
    }
  },
  TEXT("text/plain", "text/markdown", "text/csv") {
    @Override
    String text(byte[] file, int most) throws ExtractionException {
      int nulls = 0;
      String text = decoded(file);
      for (int i = 0; i < Math.min(text.length(), 10_000); i++) {
        nulls += text.charAt(i) == 0 ? 1 : 0;
      }
      if (nulls > 0) {
        throw new ExtractionException("the file is not text: it contains zero bytes", null);
      }
      return cut(text, most);
    }
  };

  private static final long MAX_UNPACKED_BYTES = 128L << 20;
  private static final long MAX_PARTS = 5000;
  private static final int LOOKED_AT = 1024;

  @SuppressWarnings("ImmutableEnumChecker") // PDFBox changes the list, so it must be mutable.
  private final List<String> mediaTypes;

  FileKind(String... mediaTypes) {
    this.mediaTypes = List.of(mediaTypes);
  }

  /** The text of a file, truncated to a number of characters. */
  abstract String text(byte[] file, int most) throws IOException, ExtractionException;

  static @Nullable FileKind named(String mediaType) {
    for (FileKind kind : values()) {
      if (kind.mediaTypes.contains(mediaType)) {
        return kind;
      }
    }
    return null;
  }

  static String names() {
    return Arrays.stream(values())
        .flatMap(kind -> kind.mediaTypes.stream())
        .collect(Collectors.joining(", "));
  }

  /** The detected kind, or null. */
  static @Nullable FileKind of(byte[] file) {
    String start =
        new String(file, 0, Math.min(file.length, LOOKED_AT), StandardCharsets.ISO_8859_1);
    if (start.contains("%PDF-")) {
      return PDF;
    }
    if (start.startsWith("PK\u0003\u0004")) {
      return DOCX;
    }
    String lower = start.stripLeading().toLowerCase(Locale.ROOT);
    if (lower.startsWith("<!doctype html") || lower.startsWith("<html")) {
      return HTML;
    }
    return start.indexOf('\u0000') < 0 ? TEXT : null;
  }

  static String cut(String text, int most) {
    if (text.length() <= most) {
      return text;
    }
    int end = Character.isHighSurrogate(text.charAt(most - 1)) ? most - 1 : most;
    return text.substring(0, end);
  }

  private static @Nullable String charsetOrNull(byte[] file) {
    return file.length > 2 && (file[0] & 0xFF) == 0xEF && (file[1] & 0xFF) == 0xBB ? "UTF-8" : null;
  }

  /** UTF-8 or UTF-16 by byte order mark, else UTF-8, else Windows-1252. */
  private static String decoded(byte[] file) {
    if (file.length >= 2 && (file[0] & 0xFF) == 0xFE && (file[1] & 0xFF) == 0xFF
        || file.length >= 2 && (file[0] & 0xFF) == 0xFF && (file[1] & 0xFF) == 0xFE) {
      return new String(file, StandardCharsets.UTF_16);
    }
    try {
      String text = StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(file)).toString();
      return text.startsWith("\uFEFF") ? text.substring(1) : text;
    } catch (CharacterCodingException e) {
      return new String(file, Charset.forName("windows-1252"));
    }
  }

  /** The limit is reached. */
  private static final class EnoughException extends IOException {
    private static final long serialVersionUID = 1L;
    private final String text;

    EnoughException(String text) {
      this.text = text;
    }
  }

  /** Collects up to a number of characters. */
  private static final class Limited extends Writer {
    private final StringBuilder out;
    private final int most;

    Limited(StringBuilder out, int most) {
      this.out = out;
      this.most = most;
    }

    @Override
    public void write(char[] text, int from, int length) throws IOException {
      out.append(text, from, length);
      if (out.length() >= most) {
        throw new EnoughException(cut(out.toString(), most));
      }
    }

    @Override
    public void flush() {
      // Nothing is buffered.
    }

    @Override
    public void close() {
      // There is nothing to close.
    }
  }
}
