package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mnemex.engine.search.KindsData.KINDS;
import static org.mnemex.engine.search.KindsData.NAME;
import static org.mnemex.engine.search.KindsData.WORDS;

import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.mnemex.engine.ApartShards;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.EditDistance;

/** Queries over every kind of field, each compared with a scan of the documents. */
final class KindsQueries {
  /** Of texts, each of which is asked for many times. */
  private static final Map<String, List<String>> TERMS = new ConcurrentHashMap<>();

  private KindsQueries() {}

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
    for (SearchResult.Hit hit : ApartShards.search(edition, request).hits()) {
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
      SearchView view = again == 1 ? ApartShards.view(edition) : edition.view();
      assertThat(view.search(request).hits())
          .as(query.toString())
          .extracting(SearchResult.Hit::key)
          .containsExactlyElementsOf(expected);
    }
  }

  /** Asks for ranges, places, paths and child rows, chosen at random. */
  static void queries(Random random, Map<String, Document> truth, EditionFolder edition) {
    BigDecimal low = BigDecimal.valueOf(random.nextInt(5000) - 1000, 3);
    BigDecimal high = low.add(BigDecimal.valueOf(random.nextInt(2000), 3));
    boolean with = random.nextBoolean();
    check(
        edition,
        truth,
        new Query.Range("price", low, with, high, with),
        d ->
            KindsData.values(d, "price")
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
            KindsData.values(d, "price")
                .map(BigDecimal.class::cast)
                .anyMatch(p -> p.compareTo(low) == 0 || p.compareTo(new BigDecimal("1.5")) == 0));
    Instant moment = Instant.parse("2026-03-29T00:00:00Z").plusSeconds(random.nextInt(200_000));
    check(
        edition,
        truth,
        new Query.Range("seen", moment, false, null, false),
        d -> KindsData.values(d, "seen").anyMatch(s -> ((Instant) s).isAfter(moment)));
    Place centre = new Place(51.5, 0.5);
    double metres = random.nextInt(100_000);
    check(
        edition,
        truth,
        new Query.Within("place", new Area.Circle(centre, metres)),
        d ->
            KindsData.values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> centre.metresTo(p.latitude(), p.longitude()) <= metres));
    Area.Box box = new Area.Box(-20, 100 + random.nextInt(80), 60, -100 + random.nextInt(150));
    check(
        edition,
        truth,
        new Query.Within("place", box),
        d ->
            KindsData.values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> box.contains(p.latitude(), p.longitude())));
    Area.Polygon triangle =
        new Area.Polygon(List.of(new Place(51, 0), new Place(52, 0.5), new Place(51.2, 1)));
    check(
        edition,
        truth,
        new Query.Within("place", triangle),
        d ->
            KindsData.values(d, "place")
                .map(Place.class::cast)
                .anyMatch(p -> triangle.contains(p.latitude(), p.longitude())));
    check(
        edition,
        truth,
        new Query.OneOf("bed", List.of("glass/a", "glass/b/1")),
        d ->
            KindsData.values(d, "bed")
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
            KindsData.values(d, "sightings")
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
        d -> KindsData.values(d, "sightings").findAny().isEmpty());
    check(
        edition,
        truth,
        new Query.AnyOf(List.of(new Query.Exists("place"), new Query.Exists("planted"))),
        d ->
            KindsData.values(d, "place").findAny().isPresent()
                || KindsData.values(d, "planted").findAny().isPresent());
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
              d -> KindsData.values(d, "sightings").map(GroupRow.class::cast).anyMatch(oracle));
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
                  KindsData.values(d, "sightings")
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
    return row.fields().getOrDefault("text", List.of()).stream().map(text -> terms((String) text));
  }

  private static List<String> terms(Document d) {
    return KindsData.values(d, "name").flatMap(v -> terms((String) v).stream()).toList();
  }

  private static List<String> terms(String text) {
    return TERMS.computeIfAbsent(
        text,
        of ->
            Components.analysers().get("words").tokens(of).stream()
                .map(token -> token.text())
                .toList());
  }

  /** Asks for words with typing errors, patterns, phrases and words near each other. */
  static void words(Random random, Map<String, Document> truth, EditionFolder edition) {
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
}
