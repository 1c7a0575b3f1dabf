package org.mnemex.engine.read;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** The bytes in the document about the format are a segment, and what is written is the same. */
class FormatExampleTest {
  private static final Path DOCUMENT = Path.of("../docs/index-format.md");
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of(
                  "notes",
                  FieldType.TEXT,
                  Components.analysers().get("words"),
                  Use.SEARCH,
                  Use.SHOW),
              Field.of("height", FieldType.INTEGER, null, Use.FILTER)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterEach
  void clean() {
    folders.close();
  }

  @Test
  void theExampleIsRead() throws IOException {
    String text = Files.readString(DOCUMENT);
    int start = text.indexOf("```hex") + 6;
    String hex = text.substring(start, text.indexOf("```", start)).replaceAll("\\s", "");
    byte[] bytes = HexFormat.of().parseHex(hex);
    Path file = folders.create().resolve("seg-1.mnx");
    Files.write(file, bytes);
    SegmentReader segment = SegmentReader.open(file, SCHEMA);
    segment.verify();
    assertThat(segment.documents()).isEqualTo(2);
    assertThat(segment.find(utf8("b"))).isEqualTo(1);
    assertThat(segment.hash(1)).isEqualTo(2);
    Field notes = SCHEMA.field("notes");
    Dictionary.Walk walk = segment.terms(notes).walk();
    assertThat(walk.seek(utf8("fern"))).isTrue();
    Postings postings = segment.postings(notes, walk, true);
    assertThat(postings.next()).isEqualTo(0);
    assertThat(postings.positions()).containsExactly(0, 1);
    assertThat(postings.next()).isEqualTo(1);
    assertThat(postings.positions()).containsExactly(2);
    Column heights = segment.column(SCHEMA.field("height"));
    assertThat(heights.has(0)).isTrue();
    assertThat(heights.value(heights.first(0))).isEqualTo(30);
    assertThat(heights.has(1)).isFalse();
    assertThat(segment.stored(1).fields()).isEqualTo(Map.of("notes", List.of("Moss and fern")));
    assertThat(HexFormat.ofDelimiter(" ").formatHex(written()))
        .isEqualTo(HexFormat.ofDelimiter(" ").formatHex(bytes));
  }

  private byte[] written() throws IOException {
    Path folder = folders.create();
    try (EditionFolder edition = EditionFolder.open(folder, SCHEMA)) {
      edition.put(
          new Document(
              "a", Map.of("notes", List.of("Fern, fern"), "height", List.of(30L)), utf8("{}"), 1));
      edition.put(new Document("b", Map.of("notes", List.of("Moss and fern")), utf8("{}"), 2));
      edition.refresh(Checkpoint.NONE);
      return Files.readAllBytes(folder.resolve("seg-1.mnx"));
    }
  }

  private static byte[] utf8(String text) {
    return text.getBytes(StandardCharsets.UTF_8);
  }
}
