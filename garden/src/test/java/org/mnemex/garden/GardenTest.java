package org.mnemex.garden;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.apache.pdfbox.Loader;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.text.PDFTextStripper;
import org.apache.poi.xwpf.usermodel.XWPFDocument;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class GardenTest {
  private static final List<String> TABLES =
      List.of(
          "family",
          "taxon",
          "bed",
          "accession",
          "person",
          "accession_person",
          "sighting",
          "label",
          "accession_label");

  @TempDir private Path folder;

  /** All rows of a table but care sheets, whose DOCX carries times inside its archive. */
  private static Map<String, List<List<Object>>> content(Path file) throws SQLException {
    Map<String, List<List<Object>>> all = new TreeMap<>();
    for (String table : TABLES) {
      all.put(table, rows(file, "SELECT * FROM " + table + " ORDER BY 1, 2"));
    }
    return all;
  }

  private static List<List<Object>> rows(Path file, String sql) throws SQLException {
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + file);
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery(sql)) {
      List<List<Object>> out = new ArrayList<>();
      while (rows.next()) {
        Object[] row = new Object[rows.getMetaData().getColumnCount()];
        for (int i = 0; i < row.length; i++) {
          row[i] = rows.getObject(i + 1);
        }
        out.add(Arrays.asList(row));
      }
      return out;
    }
  }

  @Test
  void theSameSeedGivesTheSameGardenAndTheSameGardening() throws Exception {
    Clock still = Clock.fixed(Instant.parse("2026-05-04T10:00:00Z"), ZoneOffset.UTC);
    List<Map<String, List<List<Object>>>> gardens = new ArrayList<>();
    for (String name : List.of("one.db", "two.db")) {
      Path file = folder.resolve(name);
      Garden.create(file, 80, 5);
      try (Gardener gardener = new Gardener(file, 6, still)) {
        for (int i = 0; i < 300; i++) {
          assertThat(gardener.change()).isNotBlank();
        }
      }
      gardens.add(content(file));
    }
    assertThat(gardens.get(0)).isEqualTo(gardens.get(1));
    Path other = folder.resolve("other.db");
    Garden.create(other, 80, 7);
    assertThat(content(other)).isNotEqualTo(gardens.get(0));
  }

  @Test
  void theGardenerTouchesEveryTableThatRecordsAreMadeOf() throws Exception {
    Path file = folder.resolve("garden.db");
    Garden.create(file, 200, 1);
    Map<String, List<List<Object>>> before = content(file);
    try (Gardener gardener = new Gardener(file, 2, Clock.systemUTC())) {
      for (int i = 0; i < 1500; i++) {
        gardener.change();
      }
    }
    Map<String, List<List<Object>>> after = content(file);
    for (String table :
        List.of(
            "taxon",
            "bed",
            "accession",
            "person",
            "accession_person",
            "sighting",
            "accession_label")) {
      assertThat(after.get(table)).as(table).isNotEqualTo(before.get(table));
    }
  }

  @Test
  void sizesAreAsSaidAndReferencesHold() throws Exception {
    Path file = folder.resolve("garden.db");
    Garden.create(file, 600, 1);
    assertThat(rows(file, "SELECT count(*) FROM accession")).containsExactly(List.of(600));
    assertThat(rows(file, "SELECT count(*) FROM sighting")).containsExactly(List.of(4000));
    assertThat(rows(file, "PRAGMA foreign_key_check")).isEmpty();
    assertThat(rows(file, "SELECT DISTINCT status FROM accession")).hasSize(4);
    assertThatThrownBy(() -> Garden.create(file, 10, 1))
        .isInstanceOf(IOException.class)
        .hasMessageContaining("exists already");
  }

  @Test
  void careSheetsAreRealFilesOfTheirTypes() throws Exception {
    List<String> lines = List.of("Keep damp.", "Beware of slugs.");
    for (String mediaType : CareSheets.MEDIA_TYPES) {
      byte[] sheet = CareSheets.make(mediaType, "Care sheet", lines);
      String text =
          switch (mediaType) {
            case "application/pdf" -> {
              try (PDDocument pdf = Loader.loadPDF(sheet)) {
                yield new PDFTextStripper().getText(pdf);
              }
            }
            case "text/plain", "text/html" -> new String(sheet, StandardCharsets.UTF_8);
            default -> {
              try (XWPFDocument docx = new XWPFDocument(new ByteArrayInputStream(sheet))) {
                yield String.join(
                    "\n", docx.getParagraphs().stream().map(p -> p.getText()).toList());
              }
            }
          };
      assertThat(text).as(mediaType).contains("Care sheet", "Keep damp.", "Beware of slugs.");
    }
  }
}
