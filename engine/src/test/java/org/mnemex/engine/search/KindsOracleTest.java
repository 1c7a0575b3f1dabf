package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
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
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.facet.DateFacet;
import org.mnemex.engine.facet.DateUnit;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.HistogramFacet;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.PathFacet;
import org.mnemex.engine.facet.RowFacet;
import org.mnemex.engine.facet.StatisticsFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Paths;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.EditDistance;

/** Every kind of field, query and facet, against scans of plain documents. */
class KindsOracleTest {
  private static final Map<String, Double> NAME = Map.of("name", 1.0);
  private static final Use[] ALL = {Use.FACET, Use.FILTER, Use.SORT, Use.RANK, Use.SHOW};
  private static final Schema SCHEMA =
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
  private static final String[] WORDS = {
    "fern", "ferns", "fren", "moss", "mossy", "rose", "rosé", "slug", "damage", "日本"
  };
  private static final String[] KINDS = {"pest", "damage", "growth"};
  private static final ZoneId ZONE = ZoneId.of("Europe/London");

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 60)
  void everythingEqualsAScan(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Map<String, Document> truth = new TreeMap<>();
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = random.nextInt(400); i > 0; i--) {
        String key = "QB-" + random.nextInt(200);
        if (random.nextInt(6) == 0) {
          edition.delete(key);
          truth.remove(key);
        } else {
          Document document = document(key, random);
          edition.put(document);
          truth.put(key, document);
        }
        if (random.nextInt(60) == 0) {
          edition.refresh(Checkpoint.NONE);
          edition.mergeStep();
        }
      }
      edition.refresh(Checkpoint.NONE);
      if (random.nextBoolean()) {
        edition.compact();
      }
      for (int i = 0; i < 10; i++) {
        queries(random, truth, edition);
      }
      facets(truth, edition);
      sorts(random, truth, edition);
      stored(truth, edition);
      words(random, truth, edition);
    }
  }

  private static Document document(String key, Random random) {
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

  private static List<Object> several(Random random, java.util.function.Supplier<Object> value) {
    int count = random.nextInt(5) == 0 ? 2 : random.nextInt(4) == 0 ? 0 : 1;
    return Stream.generate(value).limit(count).toList();
  }

  private static Stream<Object> values(Document document, String field) {
    return document.fields().getOrDefault(field, List.of()).stream();
  }

  /** Of what is no text, values are marked that the filter or a choice asks for. */
  private static void checkMarks(
      EditionFolder edition, Query filter, String field, Predicate<Object> asked) {
    SearchRequest request =
        new SearchRequest(
            new Query.Everything(),
            new Query.AllOf(List.of(filter, new Query.Not(new Query.OneOf("bed", List.of("x"))))),
            null,
            0,
            1000,
            List.of(),
            Set.of(field),
            List.of(new HighlightRequest(field, 0, 0)));
    for (SearchResult.Hit hit : edition.search(request).hits()) {
      assertThat(hit.highlights())
          .as("%s of %s by %s", field, hit.fields(), filter)
          .isEqualTo(
              Map.of(
                  field,
                  hit.fields().get(field).stream()
                      .filter(asked)
                      .map(value -> "<mark>" + value + "</mark>")
                      .toList()));
    }
  }

  private static void check(
      EditionFolder edition, Map<String, Document> truth, Query query, Predicate<Document> oracle) {
    Set<String> expected = new TreeSet<>();
    truth.values().stream().filter(oracle).map(Document::key).forEach(expected::add);
    SearchRequest request =
        new SearchRequest(
            new Query.Everything(), query, null, 0, 1000, List.of(), Set.of(), List.of());
    for (int again = 0; again < 3; again++) {
      // The second time the set is remembered, the third time it is used.
      assertThat(edition.search(request).hits())
          .as(query.toString())
          .extracting(SearchResult.Hit::key)
          .containsExactlyElementsOf(expected);
    }
  }

  private static void queries(Random random, Map<String, Document> truth, EditionFolder edition) {
    BigDecimal low = BigDecimal.valueOf(random.nextInt(5000) - 1000, 3);
    BigDecimal high = low.add(BigDecimal.valueOf(random.nextInt(2000), 3));
    boolean with = random.nextBoolean();
    check(
        edition,
        truth,
        new Query.Range("price", low, with, high, with),
        d ->
            values(d, "price")
                .map(BigDecimal.class::cast)
                .anyMatch(
                    p -> {
                      int a = p.compareTo(low);
                      int b = p.compareTo(high);
                      return with ? a >= 0 && b <= 0 : a > 0 && b < 0;
                    }));
    check(
        edition,
        truth,
        new Query.OneOf("price", List.of(low, new BigDecimal("1.50"))),
        d ->
            values(d, "price")
                .map(BigDecimal.class::cast)
                .anyMatch(p -> p.compareTo(low) == 0 || p.compareTo(new BigDecimal("1.5")) == 0));
    Instant moment = Instant.parse("2026-03-29T00:00:00Z").plusSeconds(random.nextInt(200_000));
    check(
        edition,
        truth,
        new Query.Range("seen", moment, false, null, false),
        d -> values(d, "seen").anyMatch(s -> ((Instant) s).isAfter(moment)));
    Place centre = new Place(51.5, 0.5);
    double metres = random.nextInt(100_000);
    check(
        edition,
        truth,
        new Query.Within("place", new Area.Circle(centre, metres)),
        d ->
            values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> centre.metresTo(p.latitude(), p.longitude()) <= metres));
    Area.Box box = new Area.Box(-20, 100 + random.nextInt(80), 60, -100 + random.nextInt(150));
    check(
        edition,
        truth,
        new Query.Within("place", box),
        d ->
            values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> box.contains(p.latitude(), p.longitude())));
    Area.Polygon triangle =
        new Area.Polygon(List.of(new Place(51, 0), new Place(52, 0.5), new Place(51.2, 1)));
    check(
        edition,
        truth,
        new Query.Within("place", triangle),
        d ->
            values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> triangle.contains(p.latitude(), p.longitude())));
    check(
        edition,
        truth,
        new Query.OneOf("bed", List.of("glass/a", "glass/b/1")),
        d ->
            values(d, "bed")
                .anyMatch(b -> b.equals("glass/b/1") || b.toString().startsWith("glass/a/")));
    checkMarks(
        edition,
        new Query.Range("price", low, with, high, with),
        "price",
        p -> {
          int a = ((BigDecimal) p).compareTo(low);
          int b = ((BigDecimal) p).compareTo(high);
          return with ? a >= 0 && b <= 0 : a > 0 && b < 0;
        });
    checkMarks(
        edition,
        new Query.Range("seen", moment, false, null, false),
        "seen",
        s -> ((Instant) s).isAfter(moment));
    checkMarks(
        edition,
        new Query.OneOf("bed", List.of("glass/a", "glass/b/1")),
        "bed",
        b -> b.equals("glass/b/1") || b.toString().startsWith("glass/a/"));
    checkMarks(
        edition,
        new Query.AnyOf(
            List.of(
                new Query.StartsWith("bed", "glass/b"),
                new Query.Range("bed", "glass/c/1", true, null, false))),
        "bed",
        b -> b.toString().startsWith("glass/b") || b.toString().compareTo("glass/c/1") >= 0);
    String kind = KINDS[random.nextInt(KINDS.length)];
    long height = random.nextInt(20);
    check(
        edition,
        truth,
        new Query.Group(
            "sightings",
            new Query.AllOf(
                List.of(
                    new Query.OneOf("sightings.kind", List.of(kind)),
                    new Query.Range("sightings.height", height, true, null, false)))),
        d ->
            values(d, "sightings")
                .map(GroupRow.class::cast)
                .anyMatch(
                    row ->
                        row.fields().get("kind").contains(kind)
                            && row.fields().getOrDefault("height", List.of()).stream()
                                .anyMatch(h -> (Long) h >= height)));
    Query.Group ofKind =
        new Query.Group("sightings", new Query.OneOf("sightings.kind", List.of(kind)));
    Query other =
        new Query.Group("sightings", new Query.Range("sightings.height", 15L, true, null, false));
    for (SearchResult.Hit hit :
        edition
            .search(
                new SearchRequest(
                    new Query.Everything(),
                    new Query.AllOf(List.of(ofKind, new Query.Not(other))),
                    null,
                    0,
                    1000,
                    List.of(),
                    Set.of("sightings"),
                    List.of()))
            .hits()) {
      List<Integer> rows = new ArrayList<>();
      List<Object> all = truth.get(hit.key()).fields().get("sightings");
      for (int i = 0; i < all.size(); i++) {
        if (((GroupRow) all.get(i)).fields().get("kind").contains(kind)) {
          rows.add(i);
        }
      }
      assertThat(hit.rows()).isEqualTo(Map.of("sightings", rows));
    }
    rowsByWords(random, truth, edition);
    check(
        edition,
        truth,
        new Query.Not(new Query.Exists("sightings")),
        d -> values(d, "sightings").findAny().isEmpty());
    check(
        edition,
        truth,
        new Query.AnyOf(List.of(new Query.Exists("place"), new Query.Exists("planted"))),
        d ->
            values(d, "place").findAny().isPresent() || values(d, "planted").findAny().isPresent());
  }

  /** Conditions on the words of a row, alone and with others on the same row. */
  private static void rowsByWords(
      Random random, Map<String, Document> truth, EditionFolder edition) {
    String word = WORDS[random.nextInt(WORDS.length)];
    String next = WORDS[random.nextInt(WORDS.length)];
    String kind = KINDS[random.nextInt(KINDS.length)];
    Map<String, Double> text = Map.of("sightings.text", 1.0);
    Map<Query, Predicate<GroupRow>> conditions = new LinkedHashMap<>();
    conditions.put(
        new Query.Word(text, word, false),
        row -> rowTexts(row).anyMatch(t -> t.contains(term(word))));
    conditions.put(
        new Query.Word(text, word.substring(0, 2), true),
        row ->
            rowTexts(row)
                .flatMap(List::stream)
                .anyMatch(term -> term.startsWith(term(word.substring(0, 2)))));
    conditions.put(
        new Query.Phrase(text, word + " " + next),
        row -> rowTexts(row).anyMatch(List.of(term(word), term(next))::equals));
    conditions.put(
        new Query.Near(text, List.of(word, next), 3, false),
        row -> rowTexts(row).anyMatch(t -> hasBoth(t, term(word), term(next))));
    conditions.put(
        new Query.Wildcard(text, "*" + term(word).charAt(1) + "*"),
        row ->
            rowTexts(row)
                .flatMap(List::stream)
                .anyMatch(term -> term.indexOf(term(word).charAt(1)) >= 0));
    conditions.put(new Query.Exists("sightings.text"), row -> rowTexts(row).findAny().isPresent());
    conditions.forEach(
        (condition, oracle) -> {
          check(
              edition,
              truth,
              new Query.Group("sightings", condition),
              d -> values(d, "sightings").map(GroupRow.class::cast).anyMatch(oracle));
          check(
              edition,
              truth,
              new Query.Group(
                  "sightings",
                  new Query.AllOf(
                      List.of(
                          new Query.Holds(condition),
                          new Query.Not(new Query.OneOf("sightings.kind", List.of(kind)))))),
              d ->
                  values(d, "sightings")
                      .map(GroupRow.class::cast)
                      .anyMatch(
                          row -> oracle.test(row) && !row.fields().get("kind").contains(kind)));
        });
  }

  private static boolean hasBoth(List<String> text, String word, String next) {
    return word.equals(next)
        ? text.indexOf(word) != text.lastIndexOf(word)
        : text.contains(word) && text.contains(next);
  }

  private static String term(String word) {
    return Components.analysers().get("words").tokens(word).getFirst().text();
  }

  /** The terms of each text of a row. */
  private static Stream<List<String>> rowTexts(GroupRow row) {
    return row.fields().getOrDefault("text", List.of()).stream()
        .map(
            text ->
                Components.analysers().get("words").tokens((String) text).stream()
                    .map(token -> token.text())
                    .toList());
  }

  private static List<String> terms(Document d) {
    return values(d, "name")
        .flatMap(v -> Components.analysers().get("words").tokens((String) v).stream())
        .map(token -> token.text())
        .toList();
  }

  private static void words(Random random, Map<String, Document> truth, EditionFolder edition) {
    String word = WORDS[random.nextInt(WORDS.length)].replace("é", "e");
    for (int edits = 0; edits <= 2; edits++) {
      for (boolean prefix : new boolean[] {false, true}) {
        int most = edits;
        check(
            edition,
            truth,
            new Query.Typo(NAME, word, edits, 1, prefix),
            d -> terms(d).stream().anyMatch(t -> EditDistance.within(word, t, most, 1, prefix)));
      }
    }
    check(
        edition,
        truth,
        new Query.Wildcard(NAME, "m?s*"),
        d -> terms(d).stream().anyMatch(t -> t.matches("m.s.*")));
    check(
        edition,
        truth,
        new Query.Pattern(NAME, "(fe|ro)[a-s]+(s|e)?"),
        d -> terms(d).stream().anyMatch(t -> t.matches("(fe|ro)[a-s]+(s|e)?")));
    int distance = random.nextInt(3);
    check(
        edition,
        truth,
        new Query.Near(NAME, List.of("slug", "fern"), distance, false),
        d -> near(terms(d), distance, false));
    check(
        edition,
        truth,
        new Query.Near(NAME, List.of("slug", "fern"), distance, true),
        d -> near(terms(d), distance, true));
    check(
        edition,
        truth,
        new Query.Phrase(NAME, "slug slug fern", distance),
        d -> phrase(terms(d), List.of("slug", "slug", "fern"), distance));
  }

  private static boolean near(List<String> terms, int distance, boolean ordered) {
    for (int i = 0; i < terms.size(); i++) {
      for (int j = 0; j < terms.size(); j++) {
        if (terms.get(i).equals("slug")
            && terms.get(j).equals("fern")
            && Math.abs(i - j) - 1 <= distance
            && (!ordered || i < j)) {
          return true;
        }
      }
    }
    return false;
  }

  private static boolean phrase(List<String> terms, List<String> words, int distance) {
    for (int a = 0; a < terms.size(); a++) {
      for (int b = 0; b < terms.size(); b++) {
        for (int c = 0; c < terms.size(); c++) {
          if (a != b
              && terms.get(a).equals(words.get(0))
              && terms.get(b).equals(words.get(1))
              && terms.get(c).equals(words.get(2))) {
            int least = Math.min(a, Math.min(b - 1, c - 2));
            int most = Math.max(a, Math.max(b - 1, c - 2));
            if (most - least <= distance) {
              return true;
            }
          }
        }
      }
    }
    return false;
  }

  private static void facets(Map<String, Document> truth, EditionFolder edition) {
    List<FacetRequest> requests =
        List.of(
            new DateFacet("months", "planted", DateUnit.MONTH, ZONE, List.of()),
            new DateFacet("days", "seen", DateUnit.DAY, ZONE, List.of()),
            new HistogramFacet("prices", "price", new BigDecimal("0.50"), List.of()),
            new PathFacet("beds", "bed", "glass", List.of(), 100),
            new StatisticsFacet("told", "price", List.of(25.0, 100.0)),
            new ValueFacet("price", "price", List.of(), 1000, FacetOrder.VALUE),
            new RowFacet(
                new ValueFacet("rows", "sightings.kind", List.of(), 9, FacetOrder.VALUE), true));
    SearchResult result =
        edition.search(
            new SearchRequest(
                new Query.Everything(),
                new Query.Everything(),
                null,
                0,
                0,
                requests,
                Set.of(),
                List.of()));
    Map<String, Long> months = new HashMap<>();
    Map<String, Long> days = new HashMap<>();
    Map<String, Long> prices = new HashMap<>();
    Map<String, Long> beds = new HashMap<>();
    Map<Object, Long> single = new HashMap<>();
    for (Document d : truth.values()) {
      count(months, values(d, "planted").map(v -> v.toString().substring(0, 7)));
      count(days, values(d, "seen").map(v -> ((Instant) v).atZone(ZONE).toLocalDate().toString()));
      count(
          prices,
          values(d, "price")
              .map(v -> Math.floorDiv(((BigDecimal) v).unscaledValue().longValue(), 50L) * 50)
              .map(from -> BigDecimal.valueOf(from, 2) + ".." + BigDecimal.valueOf(from + 50, 2)));
      count(
          beds,
          values(d, "bed")
              .flatMap(v -> Paths.withAncestors((String) v).stream())
              .filter(p -> Paths.depth(p) == 2));
      count(single, values(d, "price"));
    }
    assertThat(texts(result.facets().get(0))).isEqualTo(months);
    assertThat(texts(result.facets().get(1))).isEqualTo(days);
    assertThat(texts(result.facets().get(2))).isEqualTo(prices);
    assertThat(texts(result.facets().get(3))).isEqualTo(beds);
    Map<Object, Long> rows = new HashMap<>();
    result.facets().get(6).values().forEach(v -> rows.put(v.value(), v.count()));
    assertThat(rows)
        .isEqualTo(
            truth.values().stream()
                .flatMap(d -> values(d, "sightings"))
                .flatMap(row -> ((GroupRow) row).fields().getOrDefault("kind", List.of()).stream())
                .collect(Collectors.groupingBy(kind -> kind, Collectors.counting())));
    Map<Object, Long> found = new HashMap<>();
    result.facets().get(5).values().forEach(v -> found.put(v.value(), v.count()));
    assertThat(found).isEqualTo(single);
    List<BigDecimal> all =
        truth.values().stream()
            .flatMap(d -> values(d, "price"))
            .map(BigDecimal.class::cast)
            .toList();
    FacetResult.Summary told = result.facets().get(4).statistics();
    if (all.isEmpty()) {
      assertThat(told).isNull();
    } else {
      assertThat(told.count()).isEqualTo(all.size());
      assertThat(told.least()).isEqualTo(all.stream().min(BigDecimal::compareTo).orElseThrow());
      assertThat(told.greatest()).isEqualTo(all.stream().max(BigDecimal::compareTo).orElseThrow());
      List<BigDecimal> sorted = all.stream().sorted().toList();
      assertThat(told.percentiles())
          .containsEntry(25.0, sorted.get((sorted.size() + 3) / 4 - 1))
          .containsEntry(100.0, sorted.getLast());
      assertThat(told.sum())
          .isEqualTo(all.stream().reduce(BigDecimal.ZERO.setScale(2), BigDecimal::add));
    }
  }

  private static <T> void count(Map<T, Long> counts, Stream<? extends T> values) {
    values.distinct().forEach(value -> counts.merge(value, 1L, Long::sum));
  }

  private static Map<String, Long> texts(FacetResult facet) {
    Map<String, Long> counts = new HashMap<>();
    for (FacetResult.Value value : facet.values()) {
      String text =
          value.value() instanceof Interval interval ? interval.text() : value.value().toString();
      counts.put(text, value.count());
    }
    return counts;
  }

  private static void sorts(Random random, Map<String, Document> truth, EditionFolder edition) {
    Place from = new Place(51.4, 0.3);
    SearchRequest nearest =
        new SearchRequest(
            new Query.Everything(),
            new Query.Everything(),
            new SearchRequest.Sort("place", false, from),
            0,
            1000,
            List.of(),
            Set.of(),
            List.of());
    List<String> expected =
        truth.values().stream()
            .sorted(
                java.util.Comparator.<Document>comparingDouble(
                        d ->
                            values(d, "place")
                                .map(Place.class::cast)
                                .mapToDouble(p -> from.metresTo(p.latitude(), p.longitude()))
                                .findFirst()
                                .orElse(Double.MAX_VALUE))
                    .thenComparing(Document::key))
            .map(Document::key)
            .toList();
    assertThat(keys(edition.search(nearest))).isEqualTo(expected);
    for (String field : List.of("price", "seen", "place")) {
      SearchRequest all =
          new SearchRequest(
              new Query.Everything(),
              new Query.Everything(),
              new SearchRequest.Sort(
                  field, random.nextBoolean(), field.equals("place") ? from : null),
              0,
              1000,
              List.of(),
              Set.of(),
              List.of());
      List<String> whole = keys(edition.search(all));
      List<String> paged = new ArrayList<>();
      SearchRequest.Cursor after = null;
      do {
        SearchRequest page =
            new SearchRequest(
                    all.query(), all.filter(), null, 0, 17, List.of(), Set.of(), List.of())
                .sortedBy(all.sorts())
                .after(after);
        List<SearchResult.Hit> hits = edition.search(page).hits();
        hits.forEach(hit -> paged.add(hit.key()));
        after = hits.isEmpty() ? null : hits.getLast().cursor();
      } while (after != null);
      assertThat(paged).as(field).isEqualTo(whole);
    }
  }

  private static List<String> keys(SearchResult result) {
    return result.hits().stream().map(SearchResult.Hit::key).toList();
  }

  private static void stored(Map<String, Document> truth, EditionFolder edition) {
    for (Document d : truth.values()) {
      Map<String, List<Object>> fields = edition.snapshot().document(d.key()).fields();
      assertThat(fields.get("sightings")).isEqualTo(d.fields().get("sightings"));
      assertThat(fields.get("place")).isEqualTo(d.fields().get("place"));
      assertThat(fields.get("bed")).isEqualTo(d.fields().get("bed"));
    }
  }

  private EditionFolder garden() throws IOException {
    EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA);
    String[] names = {
      "Shade fern",
      "Hart's-tongue fern",
      "Fern moss",
      "Rose of shade",
      "Shadow rose",
      "Harts clover"
    };
    for (int i = 0; i < names.length; i++) {
      edition.put(
          new Document(
              "k" + i,
              Map.of(
                  "name",
                  List.of(names[i]),
                  "price",
                  List.of(BigDecimal.valueOf(i, 2)),
                  "planted",
                  List.of(LocalDate.of(2026, 1, 1).plusDays(i)),
                  "place",
                  List.of(new Place(51, i))),
              new byte[0],
              i));
    }
    edition.refresh(Checkpoint.NONE);
    return edition;
  }

  @Test
  void explanationsAddUpExactlyAndSayWhatIsMissing() throws IOException {
    try (EditionFolder edition = garden()) {
      Query query =
          QueryText.parse(
              "shade fern", new QueryText.Reading(NAME, Wanted.ANY, false, true, true, Set.of()));
      SearchRequest request =
          SearchRequest.of(query, 10)
              .rankedBy(
                  List.of(
                      new Signal.Logarithm("price", 0.7),
                      new Signal.Age("planted", 0.3, 2, Instant.parse("2026-01-04T00:00:00Z")),
                      new Signal.Distance("place", 2, 100_000, new Place(51, 2)),
                      new Signal.Saturating("price", 0.1, 0.02)));
      SearchResult result = edition.search(request);
      assertThat(result.hits()).isNotEmpty();
      for (SearchResult.Hit hit : result.hits()) {
        Explanation explanation = edition.explain(request, hit.key());
        assertThat(explanation.matched()).isTrue();
        assertThat(explanation.value()).isEqualTo(hit.score());
        addsUp(explanation);
      }
      Explanation missing =
          edition.explain(SearchRequest.of(new Query.Word(NAME, "moss", false), 1), "k0");
      assertThat(missing.matched()).isFalse();
      assertThat(missing.parts().getFirst().what()).contains("word 'moss': not there");
      assertThat(edition.explain(request, "nobody")).isNull();
    }
  }

  private static void addsUp(Explanation explanation) {
    explanation.parts().forEach(KindsOracleTest::addsUp);
    if (explanation.how() == Explanation.How.SUM) {
      double sum = 0;
      for (Explanation part : explanation.parts()) {
        sum += part.value();
      }
      assertThat(sum).isEqualTo(explanation.value());
    } else if (explanation.how() == Explanation.How.PRODUCT) {
      double product = 1;
      for (Explanation part : explanation.parts()) {
        product *= part.value();
      }
      assertThat(product).isEqualTo(explanation.value());
    }
  }

  @Test
  void completionsAndCorrections() throws IOException {
    try (EditionFolder edition = garden()) {
      assertThat(texts(edition.suggest(SuggestRequest.of("har", 5, "name"))))
          .containsExactly("Harts clover", "Hart's-tongue fern");
      assertThat(texts(edition.suggest(SuggestRequest.of("shd", 5, "name"))))
          .contains("Shade fern", "Shadow rose");
      assertThat(texts(edition.suggest(SuggestRequest.of("shade fe", 5, "name"))))
          .startsWith("Shade fern");
      SuggestRequest filtered =
          new SuggestRequest(
              "fer",
              List.of("name"),
              5,
              new Query.Range("price", new BigDecimal("0.02"), true, null, false),
              List.of(),
              SearchLimits.NONE);
      assertThat(texts(edition.suggest(filtered))).containsExactly("Fern moss");
      assertThat(edition.correct(SuggestRequest.of("shde rose", 1, "name")))
          .isEqualTo("shade rose");
      assertThat(edition.correct(SuggestRequest.of("shade rose", 1, "name"))).isNull();
      assertThat(edition.correct(SuggestRequest.of("xyzzy", 1, "name"))).isNull();
      assertThat(edition.correct(SuggestRequest.of("shadefern", 1, "name")))
          .as("two words written as one")
          .isEqualTo("shade fern");
      assertThat(edition.correct(SuggestRequest.of("sha de rose", 1, "name")))
          .as("one word written as two")
          .isEqualTo("shade rose");
    }
  }

  private static List<String> texts(List<Suggestion> suggestions) {
    return suggestions.stream().map(Suggestion::text).toList();
  }

  @Test
  void whatIsTooMuchIsRefusedInWords() throws IOException {
    try (EditionFolder edition = garden()) {
      List<Query> many = new ArrayList<>();
      for (int i = 0; i < 10_000; i++) {
        many.add(new Query.Word(NAME, "w" + i, false));
      }
      refused(edition, new Query.AnyOf(many), "more than 1024 clauses");
      Query deep = new Query.Word(NAME, "fern", false);
      for (int i = 0; i < 5_000; i++) {
        deep = new Query.Weighted(deep, 1);
      }
      refused(edition, deep, "nested more than");
      refused(edition, new Query.Pattern(NAME, "(a*)*b("), "a ')' is missing");
      refused(edition, new Query.Pattern(NAME, "x".repeat(501)), "at most 500 characters");
      refused(edition, new Query.OneOf("sightings.kind", List.of("pest")), "belongs to child rows");
      refused(
          edition,
          new Query.Group("sightings", new Query.OneOf("price", List.of(BigDecimal.ONE))),
          "does not belong to group 'sightings'");
      assertThat(PatternText.compile("(a|aa)*(a|aa)*(a|aa)*b").matches("a".repeat(5_000)))
          .isFalse();
      SearchRequest fern = SearchRequest.of(new Query.Word(NAME, "s", true), 10);
      assertThatThrownBy(
              () -> edition.search(fern.within(new SearchLimits(1000, 1 << 20, 1, false))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("'s*' matches more than 1 terms");
      assertThatThrownBy(
              () -> edition.search(fern.within(new SearchLimits(-1, 1 << 20, 100, false))))
          .isInstanceOf(SearchTimeoutException.class)
          .hasMessageContaining("of 6 documents");
      SearchResult partial = edition.search(fern.within(new SearchLimits(-1, 1 << 20, 100, true)));
      assertThat(partial.partial()).isTrue();
      assertThat(partial.totalIsExact()).isFalse();
      assertThatThrownBy(() -> SearchRequest.of(new Query.Everything(), 10_001))
          .hasMessageContaining("cursor of the last result");
    }
  }

  @Test
  void whatRanOutOfTimeIsNotRemembered() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = 0; i < 12_000; i++) {
        edition.put(new Document("k" + i, Map.of("name", List.of("fern")), new byte[0], i));
      }
      edition.refresh(Checkpoint.NONE);
      Query fern = new Query.Word(NAME, "fern", false);
      SearchRequest filtered =
          new SearchRequest(
              new Query.Everything(), fern, null, 0, 10, List.of(), Set.of(), List.of());
      for (int i = 0; i < 3; i++) {
        SearchResult partial =
            edition.search(filtered.within(new SearchLimits(-1, 1 << 20, 100, true)));
        assertThat(partial.partial()).isTrue();
      }
      assertThat(edition.search(filtered).total()).isEqualTo(12_000);
    }
  }

  @Test
  void nothingIsNotEverythingAndALeastScoreIsExplained() throws IOException {
    try (EditionFolder edition = garden()) {
      Query nothing = new Query.Not(new Query.AllOf(List.of()));
      assertThat(edition.search(SearchRequest.of(nothing, 10)).total()).isZero();
      SearchRequest fern = SearchRequest.of(new Query.Word(NAME, "fern", false), 10);
      Explanation tooLittle = edition.explain(fern.scoringAtLeast(1_000), "k0");
      assertThat(tooLittle.matched()).isFalse();
      assertThat(tooLittle.parts())
          .anyMatch(part -> part.what().equals("score of at least 1000.0") && !part.matched());
      assertThatThrownBy(
              () -> edition.search(fern.rankedBy(List.of(new Signal.Saturating("price", 1, 0)))))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("must be above 0");
    }
  }

  private static void refused(EditionFolder edition, Query query, String why) {
    assertThatThrownBy(() -> edition.search(SearchRequest.of(query, 1)))
        .isInstanceOf(QueryRefusedException.class)
        .hasMessageContaining(why);
  }

  @Test
  void giantDocumentsAreCutAndCountedAndNeverLost() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      List<Object> beds = new ArrayList<>();
      for (int i = 0; i < 100_000; i++) {
        beds.add("glass/" + i);
      }
      edition.put(
          new Document(
              "big",
              Map.of("name", List.of("fern ".repeat(2_000_000) + "end"), "bed", beds),
              new byte[0],
              1));
      assertThatThrownBy(
              () ->
                  edition.put(
                      new Document(
                          "bad", Map.of("price", List.of(new BigDecimal("1e30"))), new byte[0], 1)))
          .isInstanceOf(IllegalArgumentException.class)
          .hasMessageContaining("document 'bad'");
      edition.put(new Document("small", Map.of("name", List.of("moss")), new byte[0], 1));
      edition.refresh(Checkpoint.NONE);
      assertThat(edition.cuts()).isGreaterThan(0);
      assertThat(edition.snapshot().documents()).isEqualTo(2);
      assertThat(edition.search(SearchRequest.of(new Query.Word(NAME, "fern", false), 1)).total())
          .isEqualTo(1);
      assertThat(edition.search(SearchRequest.of(new Query.Word(NAME, "moss", false), 1)).total())
          .isEqualTo(1);
    }
  }
}
