package org.mnemex.sync.mapping;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.google.re2j.Pattern;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Blob;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.RecordKey;

/** What becomes of values on their way into a document. */
class MappingTest {
  private static final RecordShape SHAPE =
      new RecordShape("plant", List.of("no"), null, List.of(), Set.of());

  @Test
  void stepsAreAppliedInOrder() throws Exception {
    assertThat(clean(" Fern ,, Moss ", new CleanStep.Split(","), new CleanStep.Trim()))
        .containsExactly("Fern", "Moss");
    assertThat(clean("4;6", new CleanStep.Split(";"), new CleanStep.JoinValues(" to ")))
        .containsExactly("4 to 6");
    assertThat(
            clean(
                "P;x",
                new CleanStep.Split(";"),
                new CleanStep.Lookup(Map.of("P", "planted", "L", "lost"))))
        .containsExactly("planted", "x");
    assertThat(
            clean("QB-0017", new CleanStep.Replace(Pattern.compile("^QB-0*([0-9]+)$"), "no. $1")))
        .containsExactly("no. 17");
    assertThat(clean("", new CleanStep.Default("unknown"))).containsExactly("unknown");
    assertThat(clean(null, new CleanStep.Default("unknown"))).containsExactly("unknown");
    assertThat(clean("🌿🌱🌼", new CleanStep.Truncate(2))).containsExactly("🌿🌱");
  }

  @Test
  void otherFormsOfDaysMomentsAndNumbersAreRead() throws Exception {
    assertThat(map(FieldType.DATE, "4.5.2026", new CleanStep.ParseDate("d.M.yyyy")))
        .containsExactly(LocalDate.of(2026, 5, 4));
    CleanStep.ParseMoment inTokyo =
        new CleanStep.ParseMoment("d.M.yyyy HH:mm", ZoneId.of("Asia/Tokyo"));
    assertThat(map(FieldType.INSTANT, "4.5.2026 19:30", inTokyo))
        .containsExactly(Instant.parse("2026-05-04T10:30:00Z"));
    assertThat(map(FieldType.INTEGER, "1.234 567", new CleanStep.ParseNumber(',')))
        .containsExactly(1_234_567L);
    assertThatThrownBy(() -> map(FieldType.DATE, "May", new CleanStep.ParseDate("d.M.yyyy")))
        .isInstanceOf(UnmappableRecordException.class)
        .hasMessageContaining("field 'value': Text 'May' could not be parsed")
        .hasMessageContaining("(values: [May])");
    assertThatThrownBy(() -> map(FieldType.INTEGER, "tall", new CleanStep.ParseNumber('.')))
        .isInstanceOf(UnmappableRecordException.class)
        .hasMessage("field 'value': 'tall' is not a number (values: [tall])");
    assertThatThrownBy(() -> map(FieldType.INTEGER, "18446744073709551615"))
        .isInstanceOf(UnmappableRecordException.class)
        .hasMessage(
            "field 'value': '18446744073709551615' is beyond what the index can hold as a whole"
                + " number; type 'exact' takes it as text");
    assertThatThrownBy(() -> map(FieldType.DATE, "20260504"))
        .isInstanceOf(UnmappableRecordException.class)
        .hasMessageContaining("'20260504' is not a ");
  }

  /** Documents of earlier builds have the first eight bytes of the SHA-256 of what they store. */
  @Test
  void aDocumentOfAnEarlierBuildAgreesWithItsRecord() throws Exception {
    DocumentMapper mapper = new DocumentMapper(withFile(true));
    AssembledRecord fern =
        record(new Blob("fern".getBytes(StandardCharsets.UTF_8), 4), "text/plain");
    AssembledRecord moss =
        record(new Blob("moss".getBytes(StandardCharsets.UTF_8), 4), "text/plain");
    ContentHash now = new ContentHash(mapper.map(fern).hash());
    ContentHash former =
        new ContentHash(
            ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(mapper.map(fern).record()))
                .getLong());
    assertThat(mapper.hash(fern, null)).isEqualTo(now).isNotEqualTo(former);
    assertThat(mapper.hash(fern, now)).isEqualTo(now);
    assertThat(mapper.hash(fern, former)).isEqualTo(former);
    assertThat(mapper.hash(moss, former)).isEqualTo(mapper.hash(moss, null)).isNotEqualTo(former);
  }

  @Test
  void aFileIsReplacedByItsTextOrSaysWhyNot() throws Exception {
    Blob text = new Blob("Water weekly".getBytes(StandardCharsets.UTF_8), 12);
    Document document = new DocumentMapper(withFile(false)).map(record(text, "text/plain"));
    assertThat(document.fields().get("sheet")).isEqualTo(List.of("Water weekly"));
    assertThat(new String(document.record(), StandardCharsets.UTF_8))
        .contains("\"content\":\"Water weekly\"");

    Blob large = new Blob(null, 3_000_000_000L);
    assertThatThrownBy(() -> new DocumentMapper(withFile(false)).map(record(large, "text/plain")))
        .isInstanceOf(UnmappableRecordException.class)
        .hasMessage("field 'sheet': the file has 3,000,000,000 bytes; up to 33,554,432 are read");
    Document without = new DocumentMapper(withFile(true)).map(record(text, "image/png"));
    assertThat(without.fields()).doesNotContainKey("sheet");
    assertThat(new String(without.record(), StandardCharsets.UTF_8))
        .contains("\"content~unreadable\":\"files of media type 'image/png' cannot be read");
  }

  private static AssembledRecord record(Blob file, String mediaType) {
    return new AssembledRecord(
        new RecordKey(List.of(1L)),
        RecordContent.of(Map.of("no", 1L, "content", file, "media", mediaType)));
  }

  private static IndexDefinition withFile(boolean optional) {
    Field field =
        Field.of(
            "sheet", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH, Use.SHOW);
    FieldDefinition definition =
        new FieldDefinition(
            field,
            ColumnRef.of("content"),
            null,
            null,
            List.of(),
            "sheet",
            List.of(),
            new FieldDefinition.File(ColumnRef.of("media"), optional));
    return new IndexDefinition(
        "plants", "garden", SHAPE.withFiles(Set.of("plant.content")), List.of(definition), "");
  }

  private static List<Object> clean(@Nullable String value, CleanStep... steps) throws Exception {
    return map(FieldType.EXACT, value, steps);
  }

  private static List<Object> map(FieldType type, @Nullable String value, CleanStep... steps)
      throws Exception {
    FieldDefinition field =
        new FieldDefinition(
            Field.of("value", type, null, Use.SHOW, Use.FILTER),
            ColumnRef.of("value"),
            null,
            List.of(steps),
            "value");
    IndexDefinition definition = new IndexDefinition("plants", "garden", SHAPE, List.of(field), "");
    Map<String, Object> content = value == null ? Map.of() : Map.of("value", value);
    return List.copyOf(
        new DocumentMapper(definition)
            .map(new AssembledRecord(new RecordKey(List.of(1L)), RecordContent.of(content)))
            .fields()
            .getOrDefault("value", List.of()));
  }
}
