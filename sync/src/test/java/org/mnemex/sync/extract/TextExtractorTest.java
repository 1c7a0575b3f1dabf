package org.mnemex.sync.extract;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Arrays;
import java.util.concurrent.TimeUnit;
import java.util.zip.ZipEntry;
import java.util.zip.ZipInputStream;
import java.util.zip.ZipOutputStream;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.pdmodel.PDPage;
import org.apache.pdfbox.pdmodel.PDPageContentStream;
import org.apache.pdfbox.pdmodel.encryption.AccessPermission;
import org.apache.pdfbox.pdmodel.encryption.StandardProtectionPolicy;
import org.apache.pdfbox.pdmodel.font.PDType1Font;
import org.apache.pdfbox.pdmodel.font.Standard14Fonts;
import org.apache.poi.xwpf.usermodel.XWPFDocument;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

class TextExtractorTest {
  private static final String DOCX_TYPE =
      "application/vnd.openxmlformats-officedocument.wordprocessingml.document";

  private final TextExtractor extractor = new TextExtractor(Readers.SHARED, Duration.ofMinutes(2));

  @Test
  void everyKindGivesItsText() throws Exception {
    assertThat(extractor.text(pdf("Water the fern weekly", null), "application/pdf"))
        .contains("Water the fern weekly");
    assertThat(extractor.text(docx("Keep the rose dry"), DOCX_TYPE)).contains("Keep the rose dry");
    assertThat(
            extractor.text(
                bytes(
                    "<html><meta charset='utf-8'><p>Gieß<b>en</b></p><script>x</script><p>täglich"),
                "text/html; charset=utf-8"))
        .containsPattern("Gießen\\s+täglich");
    assertThat(extractor.text(bytes("Été"), "text/plain")).isEqualTo("Été");
    assertThat(extractor.text("Été".getBytes(StandardCharsets.ISO_8859_1), "text/plain"))
        .isEqualTo("Été");
    assertThat(extractor.text("Été".getBytes(StandardCharsets.UTF_16), "text/plain"))
        .isEqualTo("Été");
    // Without a media type the bytes tell.
    assertThat(extractor.text(pdf("Fern", null), null)).contains("Fern");
    assertThat(extractor.text(docx("Rose"), null)).contains("Rose");
    assertThat(extractor.text(bytes("<!DOCTYPE html><p>Moss"), null)).contains("Moss");
  }

  @Test
  void whatIsRecordedForAStartReadsEveryKind() throws Exception {
    assertThat(ReaderTraining.texts())
        .hasSize(FileKind.values().length)
        .allSatisfy((kind, text) -> assertThat(text.strip()).startsWith("Shade ferns"));
  }

  @Test
  void longTextsAreCut() throws Exception {
    byte[] long1 = new byte[TextExtractor.MAX_CHARACTERS + 10];
    Arrays.fill(long1, (byte) 'a');
    assertThat(extractor.text(long1, "text/plain")).hasSize(TextExtractor.MAX_CHARACTERS);
  }

  @Test
  void whatIsWrongIsSaid() throws Exception {
    refuses(
        pdf("secret", "word"), "application/pdf", "the PDF is encrypted and asks for a password");
    byte[] cut = Arrays.copyOf(docx("Rose"), 700);
    refuses(cut, DOCX_TYPE, "the DOCX is damaged");
    refuses(bytes("no pdf at all"), "application/pdf", "the PDF is damaged");
    refuses(bytes("x"), "image/png", "files of media type 'image/png' cannot be read; these can:");
    refuses(new byte[] {1, 0, 2, 0}, null, "the file is none of PDF, DOCX, HTML and plain text");
    refuses(new byte[] {1, 0, 2, 0}, "text/plain", "the file is not text: it contains zero bytes");
    refuses(bomb(), DOCX_TYPE, "the DOCX unpacks to");
  }

  /** More files hang than are read at a time; all wait no longer than for those before them. */
  @Test
  void filesThatHangAreGivenUpAndTheOthersAreRead() throws Exception {
    Readers readers = new Readers(64);
    TextExtractor impatient = new TextExtractor(readers, Duration.ofNanos(1));
    for (int i = 0; i < 5; i++) {
      byte[] file = docx("Rose " + i);
      assertThatThrownBy(() -> impatient.text(file, DOCX_TYPE))
          .isInstanceOf(ExtractionException.class)
          .hasMessage("the DOCX takes longer than 0 s to read");
    }
    TextExtractor patient = new TextExtractor(readers, Duration.ofMinutes(2));
    assertThat(patient.text(docx("Rose 0"), DOCX_TYPE)).contains("Rose 0");
  }

  @Test
  void aFileThatNeedsTooMuchMemoryHarmsNoOther() throws Exception {
    TextExtractor small = new TextExtractor(new Readers(24), Duration.ofMinutes(2));
    byte[] nested = bytes("<!DOCTYPE html>" + "<b><i><p>".repeat(200_000));
    assertThatThrownBy(() -> small.text(nested, "text/html"))
        .isInstanceOf(ExtractionException.class)
        .hasMessage("the HTML needs more memory to read than allowed");
    assertThat(small.text(bytes("<p>Moss"), "text/html")).contains("Moss");
  }

  /** Long before it would end for lack of work. */
  @Test
  void aProcessEndsWithTheService() throws Exception {
    Process process =
        new ProcessBuilder(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-cp",
                System.getProperty("java.class.path"),
                ReaderMain.class.getName())
            .redirectError(ProcessBuilder.Redirect.DISCARD)
            .start();
    try {
      assertThat(process.getInputStream().read()).isEqualTo(ReaderMain.READY);
      process.getOutputStream().close();
      assertThat(process.waitFor(ReaderMain.IDLE_SECONDS / 3, TimeUnit.SECONDS)).isTrue();
    } finally {
      process.destroyForcibly();
    }
  }

  private void refuses(byte[] file, @Nullable String mediaType, String reason) {
    assertThatThrownBy(() -> extractor.text(file, mediaType))
        .isInstanceOf(ExtractionException.class)
        .hasMessageContaining(reason);
  }

  private static byte[] bytes(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }

  private static byte[] pdf(String text, @Nullable String password) throws IOException {
    try (PDDocument document = new PDDocument();
        ByteArrayOutputStream out = new ByteArrayOutputStream()) {
      PDPage page = new PDPage();
      document.addPage(page);
      try (PDPageContentStream content = new PDPageContentStream(document, page)) {
        content.beginText();
        content.setFont(new PDType1Font(Standard14Fonts.FontName.HELVETICA), 11);
        content.newLineAtOffset(60, 720);
        content.showText(text);
        content.endText();
      }
      if (password != null) {
        document.protect(new StandardProtectionPolicy(password, password, new AccessPermission()));
      }
      document.save(out);
      return out.toByteArray();
    }
  }

  private static byte[] docx(String text) throws IOException {
    try (XWPFDocument document = new XWPFDocument();
        ByteArrayOutputStream out = new ByteArrayOutputStream()) {
      document.createParagraph().createRun().setText(text);
      document.write(out);
      return out.toByteArray();
    }
  }

  /** A DOCX whose text is packed a thousandfold. */
  private static byte[] bomb() throws IOException {
    ByteArrayOutputStream out = new ByteArrayOutputStream();
    try (ZipInputStream from = new ZipInputStream(new ByteArrayInputStream(docx("Rose")));
        ZipOutputStream to = new ZipOutputStream(out)) {
      for (ZipEntry entry = from.getNextEntry(); entry != null; entry = from.getNextEntry()) {
        to.putNextEntry(new ZipEntry(entry.getName()));
        byte[] content = from.readAllBytes();
        if (entry.getName().equals("word/document.xml")) {
          String xml = new String(content, StandardCharsets.UTF_8);
          int at = xml.indexOf("Rose");
          to.write(bytes(xml.substring(0, at)));
          byte[] many = new byte[1 << 20];
          Arrays.fill(many, (byte) 'R');
          for (int i = 0; i < 200; i++) {
            to.write(many);
          }
          to.write(bytes(xml.substring(at)));
        } else {
          to.write(content);
        }
        to.closeEntry();
      }
    }
    return out.toByteArray();
  }
}
