package org.mnemex.engine.read;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.stream.Collectors;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

class StoredCodecTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              field("name", FieldType.TEXT),
              field("family", FieldType.EXACT),
              field("height", FieldType.INTEGER),
              field("site", FieldType.PLACE),
              Field.group(
                  "sightings",
                  List.of(
                      field("sightings.who", FieldType.EXACT),
                      field("sightings.count", FieldType.INTEGER)),
                  Use.SHOW),
              field("number", FieldType.INTEGER)));

  private static Field field(String name, FieldType type) {
    return Field.of(
        name, type, type == FieldType.TEXT ? Components.analysers().get("words") : null, Use.SHOW);
  }

  /** Whatever is passed over, the fields that are wanted are those of the whole document. */
  @Property(tries = 500)
  void someFieldsAreThoseOfTheWhole(@ForAll long seed) {
    Random random = new Random(seed);
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (Field field : SCHEMA.fields()) {
      if (random.nextInt(3) > 0) {
        fields.put(field.name(), values(field, random));
      }
    }
    byte[] record = "{\"number\": 7}".getBytes(StandardCharsets.UTF_8);
    byte[] bytes = new StoredCodec.Encoder(SCHEMA).encode(new Document("1", fields, record, 0));
    Map<String, List<Object>> whole = StoredCodec.decode(bytes, SCHEMA).fields();
    assertThat(whole).isEqualTo(fields);
    Set<String> wanted =
        SCHEMA.fields().stream()
            .map(Field::name)
            .filter(name -> random.nextBoolean())
            .collect(Collectors.toSet());
    whole.keySet().retainAll(wanted);
    assertThat(new StoredCodec.Decoder(SCHEMA, wanted).decode(bytes)).isEqualTo(whole);
  }

  private static List<Object> values(Field field, Random random) {
    List<Object> values = new ArrayList<>();
    for (int n = 1 + random.nextInt(3); n > 0; n--) {
      values.add(
          switch (field.type()) {
            case INTEGER -> random.nextLong() >> random.nextInt(64);
            case PLACE -> new Place(random.nextInt(180) - 90, random.nextInt(360) - 180);
            case GROUP -> row(field, random);
            default -> "fern ".repeat(random.nextInt(60)) + random.nextInt();
          });
    }
    return values;
  }

  private static GroupRow row(Field group, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (Field child : group.children()) {
      if (random.nextBoolean()) {
        fields.put(child.ownName(), values(child, random));
      }
    }
    return new GroupRow(fields);
  }
}
