package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
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
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** So many of several words, and what lifts, lowers or lets fall off. */
class RankingTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH),
              Field.of("bed", FieldType.EXACT, null, Use.FILTER),
              Field.of("planted", FieldType.DATE, null, Use.RANK),
              Field.of("place", FieldType.PLACE, null, Use.RANK, Use.FILTER)));
  private static final List<String> WORDS =
      List.of("fern", "moss", "rose", "oak", "slug", "shade", "the");
  private static final Place HERE = new Place(51.2, -0.3);
  private static final Instant NOW = Instant.parse("2026-05-05T00:00:00Z");

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 40)
  void soManyOfSeveralWords(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      int most = random.nextInt(4) == 0 ? 4_000 : 200;
      for (int i = 0; i < most; i++) {
        edition.put(document("k" + i, random));
        if (random.nextInt(most / 3) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      List<Query> clauses = new ArrayList<>();
      for (int n = 2 + random.nextInt(4); n > 0; n--) {
        String word = WORDS.get(random.nextInt(WORDS.size()));
        clauses.add(new Query.Word(Map.of("name", 1.0), word, false));
      }
      Wanted wanted =
          random.nextBoolean()
              ? new Wanted(1 + random.nextInt(5), 1)
              : new Wanted(0, (1 + random.nextInt(100)) / 100.0);
      List<Signal> signals =
          random.nextBoolean()
              ? List.of()
              : List.of(
                  new Signal.Lift(new Query.OneOf("bed", List.of("wall")), random.nextDouble() * 3),
                  new Signal.Age("planted", 1, 3, NOW, Signal.Curve.LINEAR));
      Map<String, Double> expected = expected(edition, clauses, wanted, signals);
      SearchRequest request =
          SearchRequest.of(new Query.Some(wanted, clauses), 10_000).rankedBy(signals);
      Map<String, Double> found = scores(edition.search(request));
      assertThat(found.keySet()).isEqualTo(expected.keySet());
      expected.forEach((key, score) -> assertThat(found.get(key)).isCloseTo(score, within(1e-9)));
      // As a filter it matches the same, and pruned the best are the same.
      assertThat(
              edition
                  .search(
                      new SearchRequest(
                          new Query.Everything(),
                          new Query.Some(wanted, clauses),
                          null,
                          0,
                          0,
                          List.of(),
                          Set.of(),
                          List.of()))
                  .total())
          .isEqualTo(expected.size());
      List<Double> best = new ArrayList<>(scores(edition.search(request)).values());
      assertThat(
              scores(
                      edition.search(
                          SearchRequest.of(new Query.Some(wanted, clauses), 5)
                              .rankedBy(signals)
                              .countingUpTo(0)))
                  .values())
          .containsExactlyElementsOf(best.subList(0, Math.min(5, best.size())));
    }
  }

  /** Every clause is searched for alone, and what is found is put together. */
  private static Map<String, Double> expected(
      EditionFolder edition, List<Query> clauses, Wanted wanted, List<Signal> signals) {
    Map<String, Double> sums = new HashMap<>();
    Map<String, Integer> matches = new HashMap<>();
    int counted = 0;
    for (Query clause : clauses) {
      if (((Query.Word) clause).text().equals("the")) {
        continue;
      }
      counted++;
      scores(edition.search(SearchRequest.of(clause, 10_000).rankedBy(signals)))
          .forEach(
              (key, score) -> {
                sums.merge(key, score, Double::sum);
                matches.merge(key, 1, Integer::sum);
              });
    }
    if (counted == 0) {
      // Nothing is asked for then.
      return scores(
          edition.search(SearchRequest.of(new Query.Everything(), 10_000).rankedBy(signals)));
    }
    int least = wanted.of(counted);
    sums.keySet().removeIf(key -> matches.get(key) < least);
    return sums;
  }

  private static Map<String, Double> scores(SearchResult result) {
    Map<String, Double> scores = new LinkedHashMap<>();
    result.hits().forEach(hit -> scores.put(hit.key(), hit.score()));
    return scores;
  }

  private static Document document(String key, Random random) {
    StringBuilder name = new StringBuilder();
    for (int n = 1 + random.nextInt(6); n > 0; n--) {
      name.append(WORDS.get(random.nextInt(WORDS.size()))).append(' ');
    }
    return new Document(
        key,
        Map.of(
            "name", List.of(name.toString()),
            "bed", List.of(random.nextBoolean() ? "wall" : "glass"),
            "planted", List.of(LocalDate.of(2026, 5, 5).minusDays(random.nextInt(12))),
            "place", List.of(new Place(51.2 + random.nextInt(3) / 100.0, -0.3))),
        new byte[0],
        1);
  }

  @Test
  void whatLiftsLowersAndFallsOff() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      edition.put(plant("new", "wall", 0, 0));
      edition.put(plant("half", "glass", 4, 0));
      edition.put(plant("old", "glass", 8, 0.01));
      edition.refresh(Checkpoint.NONE);
      for (Signal.Curve curve : Signal.Curve.values()) {
        Map<String, Double> aged = ranked(edition, new Signal.Age("planted", 1, 4, NOW, curve));
        assertThat(aged.get("new")).isEqualTo(2);
        assertThat(aged.get("half")).isCloseTo(1.5, within(1e-12));
        double twice =
            switch (curve) {
              case EXPONENTIAL -> 0.25;
              case LINEAR -> 0;
              case GAUSSIAN -> 1 / 16.0;
            };
        assertThat(aged.get("old")).isCloseTo(1 + twice, within(1e-12));
        double metres = HERE.metresTo(51.21, -0.3);
        assertThat(ranked(edition, new Signal.Distance("place", 2, metres, HERE, curve)))
            .containsEntry("new", 3.0)
            .hasEntrySatisfying("old", v -> assertThat(v).isCloseTo(2, within(1e-6)));
      }
      assertThat(
              ranked(
                  edition,
                  new Signal.Lift(new Query.OneOf("bed", List.of("wall")), 3),
                  new Signal.Lift(new Query.Not(new Query.OneOf("bed", List.of("wall"))), 0.5)))
          .containsEntry("new", 3.0)
          .containsEntry("half", 0.5);
      Explanation why =
          edition.explain(
              SearchRequest.of(new Query.Everything(), 1)
                  .rankedBy(List.of(new Signal.Lift(new Query.OneOf("bed", List.of("wall")), 3))),
              "new");
      assertThat(why.toString()).contains("lifted: bed = wall");
      assertThatThrownBy(() -> ranked(edition, new Signal.Lift(new Query.Everything(), 0)))
          .isInstanceOf(QueryRefusedException.class)
          .hasMessageContaining("above 0");
    }
  }

  private static Map<String, Double> ranked(EditionFolder edition, Signal... signals) {
    return scores(
        edition.search(SearchRequest.of(new Query.Everything(), 10).rankedBy(List.of(signals))));
  }

  private static Document plant(String key, String bed, int days, double north) {
    return new Document(
        key,
        Map.of(
            "name", List.of(key),
            "bed", List.of(bed),
            "planted", List.of(LocalDate.of(2026, 5, 5).minusDays(days)),
            "place", List.of(new Place(51.2 + north, -0.3))),
        new byte[0],
        1);
  }

  @Test
  void aShareOfTheWordsIsRoundedDown() {
    assertThat(new Wanted(0, 0.75).of(3)).isEqualTo(2);
    assertThat(new Wanted(0, 0.07).of(100)).isEqualTo(7);
    assertThat(new Wanted(0, 0.1).of(3)).isEqualTo(1);
    assertThat(new Wanted(5, 1).of(3)).isEqualTo(3);
    assertThat(
            QueryText.parse(
                "fern moss rose",
                new QueryText.Reading(
                    Map.of("name", 1.0),
                    new Wanted(2, 1),
                    false,
                    false,
                    false,
                    Set.of(),
                    words -> 0)))
        .isInstanceOfSatisfying(Query.Some.class, some -> assertThat(some.clauses()).hasSize(3));
  }
}
