package org.mnemex.engine.search;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** Documents with fields of every kind, made at random. */
final class KindsData {
  static final Map<String, Double> NAME = Map.of("name", 1.0);
  private static final Use[] ALL = {Use.FACET, Use.FILTER, Use.SORT, Use.RANK, Use.SHOW};
  static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of(
                  "name",
                  FieldType.TEXT,
                  Components.analysers().get("words"),
                  Use.SEARCH,
                  Use.SUGGEST),
              Field.decimal("price", 2, ALL),
              Field.of("planted", FieldType.DATE, null, ALL),
              Field.of("seen", FieldType.INSTANT, null, ALL),
              Field.of("place", FieldType.PLACE, null, Use.FILTER, Use.SORT, Use.SHOW),
              Field.of("bed", FieldType.PATH, null, Use.FACET, Use.FILTER, Use.SHOW),
              Field.group(
                  "sightings",
                  List.of(
                      Field.of("sightings.kind", FieldType.EXACT, null, Use.FILTER),
                      Field.of("sightings.height", FieldType.INTEGER, null, Use.FILTER),
                      Field.of(
                          "sightings.text",
                          FieldType.TEXT,
                          Components.analysers().get("words"),
                          Use.SEARCH)),
                  Use.FILTER,
                  Use.SHOW)));
  static final String[] WORDS = {
    "fern", "ferns", "fren", "moss", "mossy", "rose", "rosé", "slug", "damage", "日本"
  };
  static final String[] KINDS = {"pest", "damage", "growth"};
  static final ZoneId ZONE = ZoneId.of("Europe/London");

  private KindsData() {}

  /** A document with values of every kind, or without some of them. */
  static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    StringBuilder name = new StringBuilder();
    for (int n = random.nextInt(6); n > 0; n--) {
      name.append(WORDS[random.nextInt(WORDS.length)]).append(' ');
    }
    fields.put("name", List.of(name.toString()));
    fields.put("price", several(random, () -> BigDecimal.valueOf(random.nextInt(500) - 100, 2)));
    fields.put(
        "planted", several(random, () -> LocalDate.of(2024, 1, 1).plusDays(random.nextInt(900))));
    fields.put(
        "seen",
        several(
            random,
            () -> Instant.parse("2026-03-28T12:00:00Z").plusSeconds(random.nextInt(300_000))));
    if (random.nextInt(4) > 0) {
      fields.put(
          "place",
          List.of(
              random.nextInt(3) == 0
                  ? new Place(random.nextInt(181) - 90, random.nextInt(361) - 180)
                  : new Place(51 + random.nextInt(1000) / 1000.0, random.nextInt(1000) / 1000.0)));
    }
    fields.put(
        "bed",
        several(
            random, () -> "glass/" + (char) ('a' + random.nextInt(3)) + "/" + random.nextInt(3)));
    List<Object> rows = new ArrayList<>();
    for (int n = random.nextInt(4); n > 0; n--) {
      Map<String, List<Object>> row = new HashMap<>();
      row.put("kind", List.of(KINDS[random.nextInt(KINDS.length)]));
      if (random.nextBoolean()) {
        row.put("height", List.of((long) random.nextInt(20)));
      }
      if (random.nextInt(3) > 0) {
        row.put(
            "text",
            several(
                random,
                () ->
                    WORDS[random.nextInt(WORDS.length)]
                        + " "
                        + WORDS[random.nextInt(WORDS.length)]));
      }
      rows.add(new GroupRow(row));
    }
    fields.put("sightings", rows);
    fields.values().removeIf(List::isEmpty);
    return new Document(key, fields, new byte[] {7}, 1);
  }

  private static List<Object> several(Random random, Supplier<Object> value) {
    int count = random.nextInt(5) == 0 ? 2 : random.nextInt(4) == 0 ? 0 : 1;
    return Stream.generate(value).limit(count).toList();
  }

  /** The values of a field; none if the document has no such field. */
  static Stream<Object> values(Document document, String field) {
    return document.fields().getOrDefault(field, List.of()).stream();
  }
}
