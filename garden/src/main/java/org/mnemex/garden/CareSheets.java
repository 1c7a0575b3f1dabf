package org.mnemex.garden;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Calendar;
import java.util.GregorianCalendar;
import java.util.List;
import java.util.Optional;
import java.util.TimeZone;
import org.apache.pdfbox.cos.COSArray;
import org.apache.pdfbox.cos.COSName;
import org.apache.pdfbox.cos.COSString;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.pdmodel.PDPage;
import org.apache.pdfbox.pdmodel.PDPageContentStream;
import org.apache.pdfbox.pdmodel.font.PDType1Font;
import org.apache.pdfbox.pdmodel.font.Standard14Fonts;
import org.apache.poi.xwpf.usermodel.XWPFDocument;

/** Care sheets as files: PDF, DOCX, HTML and plain text. */
final class CareSheets {
  /** The media types, in the order in which sheets take turns. */
  static final List<String> MEDIA_TYPES =
      List.of(
          "application/pdf",
          "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
          "text/html",
          "text/plain");

  private CareSheets() {}

  static byte[] make(String mediaType, String title, List<String> lines) throws IOException {
    return switch (mediaType) {
      case "application/pdf" -> pdf(title, lines);
      case "text/html" ->
          "<html><head><title>%s</title></head><body><h1>%s</h1><p>%s</p></body></html>"
              .formatted(title, title, String.join("</p><p>", lines))
              .getBytes(StandardCharsets.UTF_8);
      case "text/plain" ->
          (title + "\n\n" + String.join("\n", lines) + "\n").getBytes(StandardCharsets.UTF_8);
      default -> docx(title, lines);
    };
  }

  private static byte[] pdf(String title, List<String> lines) throws IOException {
    try (PDDocument document = new PDDocument();
        ByteArrayOutputStream out = new ByteArrayOutputStream()) {
      PDPage page = new PDPage();
      document.addPage(page);
      try (PDPageContentStream content = new PDPageContentStream(document, page)) {
        content.beginText();
        content.setFont(new PDType1Font(Standard14Fonts.FontName.HELVETICA), 11);
        content.setLeading(15);
        content.newLineAtOffset(60, 720);
        content.showText(title);
        content.newLine();
        for (String line : lines) {
          content.newLine();
          content.showText(line);
        }
        content.endText();
      }
      // A fixed identity, so that the same garden has the same bytes.
      COSArray id = new COSArray();
      id.add(new COSString("quillmere"));
      id.add(new COSString("quillmere"));
      document.getDocument().getTrailer().setItem(COSName.ID, id);
      document.save(out);
      return out.toByteArray();
    }
  }

  private static byte[] docx(String title, List<String> lines) throws IOException {
    try (XWPFDocument document = new XWPFDocument();
        ByteArrayOutputStream out = new ByteArrayOutputStream()) {
      Calendar made = new GregorianCalendar(TimeZone.getTimeZone("UTC"));
      made.setTimeInMillis(0);
      document.getProperties().getCoreProperties().setCreated(Optional.of(made.getTime()));
      document.createParagraph().createRun().setText(title);
      for (String line : lines) {
        document.createParagraph().createRun().setText(line);
      }
      document.write(out);
      return out.toByteArray();
    }
  }
}
