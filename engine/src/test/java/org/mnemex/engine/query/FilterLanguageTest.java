package org.mnemex.engine.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import net.jqwik.api.Example;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterContainer;
import net.jqwik.api.lifecycle.BeforeContainer;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/**
 * Laws that hold of every filter, and that anything else is refused in words: filters are made up
 * at random, by the grammar and against it.
 */
class FilterLanguageTest {
  private static final Use[] USES = {Use.FILTER, Use.FACET};
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH),
              Field.of("name", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              Field.of("family", FieldType.EXACT, null, USES),
              new Field("date", FieldType.EXACT, Set.of(USES), true, 1, null, null, 0, List.of()),
              Field.of("height", FieldType.INTEGER, null, USES),
              Field.decimal("price", 2, USES),
              Field.of("planted", FieldType.DATE, null, USES),
              Field.of("seen", FieldType.INSTANT, null, USES),
              Field.of("evergreen", FieldType.BOOLEAN, null, USES),
              Field.of("bed", FieldType.PATH, null, USES),
              Field.of("place", FieldType.PLACE, null, Use.FILTER),
              Field.group(
                  "rows",
                  List.of(
                      Field.of("rows.kind", FieldType.EXACT, null, Use.FILTER),
                      Field.of("rows.count", FieldType.INTEGER, null, Use.FILTER),
                      Field.of(
                          "rows.text",
                          FieldType.TEXT,
                          Components.analysers().get("english"),
                          Use.SEARCH)),
                  Use.FILTER)));

  /** Filters that each try makes up; more of them for a long run by hand. */
  private static final int ROUNDS = Integer.getInteger("mnemex.fuzz.rounds", 1);

  private static final TemporaryFolders FOLDERS = new TemporaryFolders();
  private static final SearchLimits LIMITS = new SearchLimits(10_000, 64 << 20, 1_000, false);
  private static final TreeSet<String> ALL = new TreeSet<>();
  private static EditionFolder edition;

  @BeforeContainer
  static void garden() throws IOException {
    edition = EditionFolder.open(FOLDERS.create(), SCHEMA);
    Random random = new Random(7);
    for (int i = 0; i < 300; i++) {
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      fields.put("notes", List.of(any(random, "the fern", "ferns or moss", "or", "wi-fi", "日本 庭")));
      fields.put("name", List.of(any(random, "A fern", "moss", "Rosé", "not and or")));
      fields.put("family", List.of(any(random, "Fagaceae", "O'Hara", "x", "")));
      fields.put("date", List.of(any(random, "today", "Today", "TODAY")));
      fields.put("height", List.of((long) random.nextInt(20) - 5));
      fields.put("price", List.of(BigDecimal.valueOf(random.nextInt(500), 2)));
      fields.put("planted", List.of(LocalDate.of(2026, 1, 1).plusDays(random.nextInt(100))));
      fields.put("seen", List.of(Instant.parse("2026-05-04T00:00:00Z").plusSeconds(i * 1000L)));
      fields.put("evergreen", List.of(random.nextBoolean()));
      fields.put("bed", List.of(any(random, "glass/a", "glass/b/1", "wall")));
      fields.put("place", List.of(new Place(random.nextInt(181) - 90, random.nextInt(361) - 180)));
      Map<String, List<Object>> row = new LinkedHashMap<>();
      row.put("kind", List.of(any(random, "pest", "growth")));
      row.put("count", List.of((long) random.nextInt(4)));
      row.put("text", List.of(any(random, "the fern", "ferns or moss", "or")));
      fields.put("rows", List.of(new GroupRow(row)));
      fields.keySet().removeIf(name -> random.nextInt(4) == 0);
      edition.put(new Document("k" + i, fields, new byte[0], 1));
      ALL.add("k" + i);
      if (i % 90 == 0) {
        edition.refresh(Checkpoint.NONE);
      }
    }
    edition.refresh(Checkpoint.NONE);
  }

  @AfterContainer
  static void clean() throws IOException {
    edition.close();
    FOLDERS.close();
  }

  private static String any(Random random, String... of) {
    return of[random.nextInt(of.length)];
  }

  private static Set<String> find(String filter) {
    SearchRequest request =
        new SearchRequest(
            new Query.Everything(),
            FilterText.parse(filter, SCHEMA),
            null,
            0,
            1000,
            List.of(),
            Set.of(),
            List.of());
    Set<String> keys = new TreeSet<>();
    edition.search(request.within(LIMITS)).hits().forEach(hit -> keys.add(hit.key()));
    return keys;
  }

  @Property(tries = 1500)
  void theLawsOfLogicHold(@ForAll long seed) {
    Random random = new Random(seed);
    for (int round = 0; round < ROUNDS; round++) {
      theLawsHold(random);
    }
  }

  private static void theLawsHold(Random random) {
    String c = condition(random, 0);
    Set<String> found;
    try {
      found = find(c);
    } catch (FilterSyntaxException | QueryRefusedException refused) {
      return;
    }
    Set<String> rest = new TreeSet<>(ALL);
    rest.removeAll(found);
    assertThat(find("NOT (" + c + ")")).as("not %s", c).isEqualTo(rest);
    assertThat(find("NOT NOT (" + c + ")")).as("not not %s", c).isEqualTo(found);
    assertThat(find("(" + c + ") AND (" + c + ")")).as("%s and itself", c).isEqualTo(found);
    assertThat(find("(" + c + ") OR (" + c + ")")).as("%s or itself", c).isEqualTo(found);
    String d = condition(random, 1);
    Set<String> both;
    try {
      both = new TreeSet<>(find(d));
    } catch (FilterSyntaxException | QueryRefusedException refused) {
      return;
    }
    Set<String> either = new TreeSet<>(both);
    either.addAll(found);
    assertThat(find("(" + c + ") OR (" + d + ")")).as("%s or %s", c, d).isEqualTo(either);
    both.retainAll(found);
    assertThat(find("(" + c + ") AND (" + d + ")")).as("%s and %s", c, d).isEqualTo(both);
    assertThat(find("NOT (NOT (" + c + ") OR NOT (" + d + "))"))
        .as("not either of not %s, not %s", c, d)
        .isEqualTo(both);
    // As a query it matches the same documents, whether it is walked through or made a set.
    Query query = FilterText.parse(c, SCHEMA);
    SearchResult scored = edition.search(SearchRequest.of(query, 1000).within(LIMITS));
    assertThat(scored.hits())
        .as("as a query: %s", c)
        .extracting(SearchResult.Hit::key)
        .containsExactlyInAnyOrderElementsOf(found);
  }

  @Property(tries = 3000)
  void anythingElseIsRefusedInWords(@ForAll long seed) {
    Random random = new Random(seed);
    for (int round = 0; round < ROUNDS; round++) {
      isFoundOrRefused(random);
    }
  }

  private static void isFoundOrRefused(Random random) {
    StringBuilder filter = new StringBuilder(random.nextBoolean() ? condition(random, 0) : "");
    for (int i = random.nextInt(6); i >= 0; i--) {
      int at = random.nextInt(filter.length() + 1);
      filter.insert(at, " " + PIECES[random.nextInt(PIECES.length)] + " ");
    }
    try {
      find(filter.toString());
    } catch (FilterSyntaxException | QueryRefusedException refused) {
      assertThat(refused.getMessage()).isNotBlank();
    }
  }

  @Example
  void whatBelongsToRowsIsNotAskedOfDocuments() {
    for (String field : List.of("rows.kind", "rows.count", "rows.text")) {
      assertThatThrownBy(() -> find("\"" + field + "\" IS NOT NULL"))
          .hasMessageContaining("belongs to child rows");
    }
    assertThatThrownBy(() -> find("MATCHES(\"rows.text\", 'fern')"))
        .hasMessageContaining("belongs to child rows");
    assertThatThrownBy(() -> find("EXISTS (rows WHERE family IS NULL)"))
        .hasMessageContaining("unknown field 'family'");
  }

  private static final String[] PIECES = {
    "(",
    ")",
    "AND",
    "OR",
    "NOT",
    "IN",
    "BETWEEN",
    "LIKE",
    "IS",
    "NULL",
    "=",
    "<>",
    "<",
    "'",
    "\"",
    "\"date\"",
    "date",
    "DATE",
    "TIMESTAMP",
    "''",
    "'%'",
    "'x'",
    "1.2.3",
    "-5",
    "٣",
    "1E9",
    "\u0000",
    "9".repeat(400),
    "POLYGON(1,2,3)",
    "BOX(91,0,92,0)",
    "DISTANCE(place, 1, 2) <",
    "MATCHES(notes,",
    "EXISTS (rows WHERE",
    "rows.kind",
    "kind = 'pest'",
    "MATCHES(text, 'fern')",
    "text",
    ",",
    "🌿",
    "TRUE",
    "--",
    ";",
    "日"
  };

  private static String condition(Random random, int depth) {
    if (depth < 3 && random.nextInt(3) == 0) {
      String left = condition(random, depth + 1);
      return switch (random.nextInt(4)) {
        case 0 -> "NOT " + left;
        case 1 -> "(" + left + ")";
        case 2 -> left + " AND " + condition(random, depth + 1);
        default -> "(" + left + " OR " + condition(random, depth + 1) + ")";
      };
    }
    return switch (random.nextInt(13)) {
      case 0 -> "family = '" + any(random, "Fagaceae", "O''Hara", "x", "", "y".repeat(1500)) + "'";
      case 1 -> "family LIKE '" + any(random, "F", "", "O''", "z") + "%'";
      case 2 -> "height BETWEEN " + (random.nextInt(30) - 8) + " AND " + random.nextInt(15);
      case 3 ->
          "price "
              + any(random, "=", "<>", "<", "<=", ">", ">=")
              + any(
                  random,
                  " 1.5",
                  " 1.50",
                  " 0.005",
                  " -3",
                  " " + "9".repeat(300),
                  " 0." + "0".repeat(300) + "1");
      case 4 ->
          "planted >= "
              + any(
                  random,
                  "DATE '2026-02-01'",
                  "'2026-02-01'",
                  "DATE '+999999999-12-31'",
                  "DATE '-999999999-01-01'");
      case 5 ->
          "seen < "
              + any(
                  random,
                  "TIMESTAMP '2026-05-05T10:00:00Z'",
                  "'2026-05-05'",
                  "TIMESTAMP '+999999999-01-01T00:00:00Z'",
                  "TIMESTAMP '-999999999-01-01T00:00:00Z'");
      case 6 -> any(random, "", "NOT ") + "evergreen" + any(random, "", " = TRUE", " IS NULL");
      case 7 -> "bed IN ('glass', '" + any(random, "wall", "glass/b/1", "none") + "')";
      case 8 -> "\"date\" = '" + any(random, "today", "TODAY", "never") + "'";
      case 9 ->
          "MATCHES("
              + any(random, "notes", "name")
              + ", '"
              + any(
                  random,
                  "OR",
                  "the",
                  "fern",
                  "fern -the",
                  "\"\"",
                  "",
                  "wi-f*",
                  "moss OR fern",
                  "-fern",
                  "f?rn",
                  "\"the\"",
                  "NEAR/3 x",
                  "fern NEAR/3 moss",
                  "日本")
              + "')";
      case 10 ->
          any(random, "family", "rows", "place", "notes", "date", "\"rows.kind\"", "\"rows.text\"")
              + " IS NOT NULL";
      case 11 ->
          any(
              random,
              "DISTANCE(place, 51, 0) < 4000000",
              "INSIDE(place, BOX(-10, 100, 60, -100))",
              "INSIDE(place, POLYGON(0,0,60,0,60,60))");
      default ->
          "EXISTS (rows WHERE "
              + any(
                  random,
                  "kind = 'pest'",
                  "NOT kind = 'pest' AND count > 1",
                  "count IN (1, 2)",
                  "MATCHES(text, 'fern')",
                  "MATCHES(text, 'the')",
                  "kind = 'growth' AND NOT MATCHES(text, '\"ferns or\" -moss')",
                  "text IS NULL OR MATCHES(text, 'f*')",
                  "kind IS NULL")
              + ")";
    };
  }
}
