package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import com.google.re2j.Pattern;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.sync.InMemory;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.push.PushSource;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Values that nobody would want, in every type of field: the record waits, the feed goes on. */
class PoisonTest {
  private static final ObjectMapper JSON = JsonMapper.shared();

  private static final List<Object> POISON =
      List.of(
          "1e400000000",
          "1e20000000",
          "-1e-400000000",
          "9".repeat(3000),
          "0." + "1".repeat(3000),
          "123456789012345678901234567890",
          "NaN",
          "Infinity",
          "+999999999-12-31",
          "0000-00-00",
          "2026-02-30",
          "+1000000000-01-01T00:00:00Z",
          "2026-05-04T25:00:00Z",
          "\uD800 half a character",
          "\u0000",
          "a".repeat(200_000),
          "/".repeat(50_000),
          "",
          " ",
          Map.of("a", Map.of("b", List.of(1, 2))),
          List.of("x", List.of("y")),
          true);

  private static final List<List<CleanStep>> STEPS =
      List.of(
          List.of(),
          List.of(new CleanStep.ParseNumber('.')),
          List.of(new CleanStep.ParseDate("dd.MM.yyyy")),
          List.of(new CleanStep.Replace(Pattern.compile("a|1"), "$5")),
          List.of(new CleanStep.StripHtml(), new CleanStep.Split("/")));

  @TempDir private Path folder;

  private static FieldDefinition field(FieldType type, int step) {
    String name = type.word() + step;
    ColumnRef from = ColumnRef.of(name);
    return new FieldDefinition(
        type == FieldType.DECIMAL
            ? Field.decimal(name, 2, Use.FILTER)
            : Field.of(name, type, null, Use.FILTER),
        from,
        type == FieldType.PLACE ? from : null,
        null,
        STEPS.get(step),
        name,
        List.of(),
        null);
  }

  private static IndexDefinition definition(List<FieldDefinition> fields) {
    return new IndexDefinition(
        "plants",
        "garden",
        new RecordShape("", List.of("id"), null, List.of(), Set.of()),
        fields,
        "");
  }

  @Test
  void aRecordThatCannotBeMappedKeepsNoOtherFromBeingIndexed() throws Exception {
    List<FieldDefinition> fields = new ArrayList<>();
    for (FieldType type : FieldType.values()) {
      if (type != FieldType.TEXT && type != FieldType.GROUP) {
        for (int step = 0; step < STEPS.size(); step++) {
          fields.add(field(type, step));
        }
      }
    }
    PushSource source =
        new PushSource(
            new SourceDefinition.Push("garden", SourceDefinition.Following.PREPARING),
            new InMemory.Pushes());
    push(source, "good", Map.of());
    try (Follower follower = Follower.start(definition(fields), source, folder.resolve("index"))) {
      int records = 1;
      for (Object value : POISON) {
        for (FieldDefinition field : fields) {
          push(source, "p" + records++, Map.of(field.field().name(), value));
        }
      }
      push(source, "last", Map.of());
      follower.awaitTrue();
      int quarantined = follower.quarantine.keys("plants", 1).size();
      assertThat(quarantined).isPositive();
      assertThat(follower.documents() + quarantined).isEqualTo(records + 1);
      assertThat(follower.keys()).contains("good", "last");
      assertThat(follower.audit(false).clean()).isTrue();
      // Numbers of any size are kept as they were pushed, and come out of stored records again.
      follower
          .editions()
          .build(
              definition(List.of(field(FieldType.EXACT, 0))), 2, source, new FillPlan(true, false));
      Follower.await(() -> follower.live().number() == 2);
      follower.awaitTrue();
      assertThat(follower.documents()).isEqualTo(records + 1);
      assertThat(follower.live().entry().plan().fromStored()).isTrue();
      assertThat(follower.audit(false).clean()).isTrue();
    }
  }

  private static void push(PushSource source, String key, Map<String, Object> values) {
    Map<String, Object> content = new LinkedHashMap<>(values);
    content.put("id", key);
    content.put("huge", new BigInteger("123456789012345678901234567890"));
    content.put("exact", new BigDecimal("1.50"));
    source.push(List.of(key), (k, before) -> JSON.writeValueAsString(content));
  }
}
