package org.mnemex.sync.extract;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.EnumMap;
import java.util.Map;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.pdmodel.PDPage;
import org.apache.pdfbox.pdmodel.PDPageContentStream;
import org.apache.pdfbox.pdmodel.font.PDType1Font;
import org.apache.pdfbox.pdmodel.font.Standard14Fonts;
import org.apache.poi.xwpf.usermodel.XWPFDocument;

/**
 * Reads one small file of each kind, so that a virtual machine can record what that needs (JEP 514)
 * and {@link ReaderMain} starts with it.
 */
public final class ReaderTraining {
  private static final String TEXT = "Shade ferns like a damp place.";

  private ReaderTraining() {}

  /**
   * Reads the files.
   *
   * @param args none
   */
  public static void main(String[] args) throws IOException, ExtractionException {
    texts();
  }

  /** What was read, by kind. */
  static Map<FileKind, String> texts() throws IOException, ExtractionException {
    Map<FileKind, String> texts = new EnumMap<>(FileKind.class);
    for (FileKind kind : FileKind.values()) {
      texts.put(kind, kind.text(file(kind), TextExtractor.MAX_CHARACTERS));
    }
    return texts;
  }

  private static byte[] file(FileKind kind) throws IOException {
    return switch (kind) {
      case PDF -> pdf();
      case DOCX -> docx();
      case HTML -> "<!doctype html><p>%s</p>".formatted(TEXT).getBytes(StandardCharsets.UTF_8);
      case TEXT -> TEXT.getBytes(StandardCharsets.UTF_8);
    };
  }

  private static byte[] pdf() throws IOException {
    ByteArrayOutputStream file = new ByteArrayOutputStream();
    try (PDDocument document = new PDDocument()) {
      PDPage page = new PDPage();
      document.addPage(page);
      try (PDPageContentStream content = new PDPageContentStream(document, page)) {
        content.beginText();
        content.setFont(new PDType1Font(Standard14Fonts.FontName.HELVETICA), 12);
        content.showText(TEXT);
        content.endText();
      }
      document.save(file);
    }
    return file.toByteArray();
  }

  private static byte[] docx() throws IOException {
    ByteArrayOutputStream file = new ByteArrayOutputStream();
    try (XWPFDocument document = new XWPFDocument()) {
      document.createParagraph().createRun().setText(TEXT);
      document.write(file);
    }
    return file.toByteArray();
  }
}
