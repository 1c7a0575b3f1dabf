package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
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
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/**
 * The best results found by pruning are those found by scoring everything: the same keys, scores
 * and order. Enough documents for many blocks and windows, several segments, deletions.
 */
class PruningTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("name", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              Field.of("notes", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              Field.of("tag", FieldType.EXACT, null, Use.SEARCH, Use.FILTER),
              Field.of("height", FieldType.INTEGER, null, Use.FILTER, Use.SORT, Use.RANK)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 12)
  void theSameBestResults(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      int documents = 2_000 + random.nextInt(12_000);
      for (int i = 0; i < documents; i++) {
        edition.put(document("k" + random.nextInt(documents), random));
        if (random.nextInt(3_000) == 0) {
          edition.refresh(Checkpoint.NONE);
        }
      }
      edition.refresh(Checkpoint.NONE);
      if (random.nextBoolean()) {
        edition.compact(bytes -> {});
      }
      for (int i = 0; i < documents / 10; i++) {
        edition.delete("k" + random.nextInt(documents));
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < 60; i++) {
        compare(edition, random);
      }
    }
  }

  private static void compare(EditionFolder edition, Random random) {
    Query filter =
        random.nextInt(3) == 0
            ? new Query.Range("height", (long) random.nextInt(100), true, null, true)
            : new Query.Everything();
    List<Signal> signals =
        switch (random.nextInt(8)) {
          case 0 -> List.of(new Signal.Saturating("height", random.nextDouble() * 2, 30));
          case 1, 2 -> List.of(new Signal.Logarithm("height", random.nextDouble() * 2));
          default -> List.of();
        };
    SearchRequest everything =
        new SearchRequest(
                query(random, 0),
                filter,
                null,
                random.nextInt(5),
                1 + random.nextInt(30),
                List.of(),
                Set.of(),
                List.of())
            .rankedBy(signals)
            .countingUpTo(Long.MAX_VALUE - 1);
    SearchResult scored = edition.search(everything);
    assertThat(scored.hits())
        .as(everything.toString())
        .extracting(hit -> hit.key() + " " + hit.score())
        .isEqualTo(allScored(edition, everything));
    SearchResult pruned = edition.search(everything.countingUpTo(1 + random.nextInt(20)));
    // Without a total any of several may be returned that score the same.
    assertThat(edition.search(everything.countingUpTo(0)).hits())
        .extracting(SearchResult.Hit::score)
        .isEqualTo(scored.hits().stream().map(SearchResult.Hit::score).toList());
    SearchResult apart = edition.search(everything.countingUpTo(Long.MAX_VALUE));
    assertThat(pruned.hits()).as(everything.toString()).isEqualTo(scored.hits());
    assertThat(apart.hits()).as(everything.toString()).isEqualTo(scored.hits());
    assertThat(apart.total()).isEqualTo(scored.total());
    assertThat(scored.totalIsExact()).isTrue();
    assertThat(pruned.total()).isLessThanOrEqualTo(scored.total());
    assertThat(pruned.totalIsExact() && pruned.total() != scored.total()).isFalse();
    mayContinue(edition, everything, scored);
  }

  /** Every document scored, one after the other as a sort by a field does, without windows. */
  private static List<String> allScored(EditionFolder edition, SearchRequest request) {
    List<SearchResult.Hit> all = new ArrayList<>();
    SearchRequest.Cursor after = null;
    do {
      SearchRequest page =
          new SearchRequest(
                  request.query(),
                  request.filter(),
                  new SearchRequest.Sort("height", false, null),
                  0,
                  SearchRequest.DEEPEST,
                  List.of(),
                  Set.of(),
                  List.of())
              .rankedBy(request.signals())
              .after(after);
      List<SearchResult.Hit> hits = edition.search(page).hits();
      all.addAll(hits);
      after = hits.size() < SearchRequest.DEEPEST ? null : hits.getLast().cursor();
    } while (after != null);
    Comparator<SearchResult.Hit> best = Comparator.comparingDouble(hit -> -hit.score());
    return all.stream()
        .sorted(best.thenComparing(SearchResult.Hit::key))
        .skip(request.offset())
        .limit(request.size())
        .map(hit -> hit.key() + " " + hit.score())
        .toList();
  }

  /** Behind the cursor of a result comes what comes behind it. */
  private static void mayContinue(
      EditionFolder edition, SearchRequest request, SearchResult result) {
    if (result.hits().size() > 3) {
      SearchResult rest = edition.search(request.after(result.hits().get(1).cursor()));
      assertThat(rest.hits().subList(0, Math.min(rest.hits().size(), 1)))
          .isEqualTo(
              request.offset() == 0
                  ? result.hits().subList(2, 3)
                  : rest.hits().subList(0, Math.min(rest.hits().size(), 1)));
    }
  }

  /**
   * While other documents come, go and are merged, walking through all pages meets every document
   * that did not change once.
   */
  @Property(tries = 20)
  void pagesMeetEveryDocumentOnce(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      int documents = 500 + random.nextInt(3_000);
      for (int i = 0; i < documents; i++) {
        edition.put(document("k" + i, random));
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < 4; i++) {
        walk(edition, random, documents);
      }
    }
  }

  private static void walk(EditionFolder edition, Random random, int documents) throws IOException {
    Query filter = new Query.Range("height", (long) random.nextInt(60), true, null, true);
    SearchRequest request =
        new SearchRequest(
                query(random, 0),
                filter,
                random.nextBoolean() ? null : new SearchRequest.Sort("height", true, null),
                0,
                20 + random.nextInt(documents / 4),
                List.of(),
                Set.of(),
                List.of())
            .rankedBy(List.of(new Signal.Saturating("height", random.nextDouble(), 30)))
            .countingUpTo(random.nextInt(30));
    Set<String> wanted = new HashSet<>();
    SearchRequest.Cursor after = null;
    do {
      List<SearchResult.Hit> hits = edition.search(withSize(request, 1_000).after(after)).hits();
      hits.forEach(hit -> wanted.add(hit.key()));
      after = hits.isEmpty() ? null : hits.getLast().cursor();
    } while (after != null);
    List<String> seen = new ArrayList<>();
    do {
      List<SearchResult.Hit> hits = edition.search(request.after(after)).hits();
      hits.forEach(hit -> seen.add(hit.key()));
      after = hits.isEmpty() ? null : hits.getLast().cursor();
      for (int i = 0; i < 50; i++) {
        String other = "other" + random.nextInt(500);
        if (random.nextInt(4) == 0) {
          edition.delete(other);
        } else {
          edition.put(document(other, random));
        }
      }
      edition.refresh(Checkpoint.NONE);
      edition.mergeStep();
    } while (after != null);
    assertThat(seen.stream().filter(key -> key.startsWith("k")))
        .as(request.toString())
        .doesNotHaveDuplicates()
        .containsExactlyInAnyOrderElementsOf(
            wanted.stream().filter(key -> key.startsWith("k")).toList());
  }

  private static SearchRequest withSize(SearchRequest request, int size) {
    return new SearchRequest(
            request.query(), request.filter(), null, 0, size, List.of(), Set.of(), List.of())
        .sortedBy(request.sorts())
        .rankedBy(request.signals())
        .countingUpTo(request.countUpTo());
  }

  @Test
  void oneWordMayEndSeveralOrderedMatches() throws IOException {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = 0; i < 6_000; i++) {
        String name =
            switch (i) {
              case 0 -> "slug slug fern on on on";
              case 5_000 -> "slug slug slug slug slug fern";
              default -> "moss";
            };
        edition.put(new Document("k" + i, Map.of("name", List.of(name)), new byte[0], 1));
      }
      edition.refresh(Checkpoint.NONE);
      Query near = new Query.Near(Map.of("name", 1.0), List.of("slug", "fern"), 9, true);
      SearchRequest best = SearchRequest.of(near, 1).countingUpTo(0);
      assertThat(edition.search(best).hits())
          .extracting(SearchResult.Hit::key)
          .containsExactly("k5000");
    }
  }

  private static Query query(Random random, int depth) {
    Map<String, Double> fields =
        random.nextInt(3) == 0
            ? Map.of("notes", 1.0)
            : Map.of("name", 1 + random.nextInt(4) * 1.0, "notes", 1.0, "tag", 0.5);
    if (depth < 2 && random.nextInt(3) > 0) {
      List<Query> clauses = new ArrayList<>();
      for (int n = 2 + random.nextInt(4); n > 0; n--) {
        clauses.add(query(random, depth + 1));
      }
      return switch (random.nextInt(4)) {
        case 0 -> new Query.AllOf(clauses);
        case 1 -> new Query.Prefer(clauses.get(0), clauses.get(1));
        default -> new Query.AnyOf(clauses);
      };
    }
    String word = word(random);
    return switch (random.nextInt(12)) {
      case 10 -> new Query.OneOf("tag", List.of(word, word(random)));
      case 11 -> new Query.Range("height", (long) random.nextInt(160), true, null, true);
      case 0 -> new Query.Phrase(fields, word + " " + word(random), random.nextInt(3));
      case 1 -> new Query.Word(fields, word.substring(0, 1), true);
      case 2 -> new Query.Weighted(new Query.Word(fields, word, false), 0.1 + random.nextDouble());
      case 3 -> new Query.Near(fields, List.of(word, word(random)), 3, random.nextBoolean());
      case 4 -> new Query.Typo(fields, word, 1, 1, random.nextBoolean());
      default -> new Query.Word(fields, word, false);
    };
  }

  /** A few frequent words and many rare ones. */
  private static String word(Random random) {
    int rank = (int) Math.pow(400, random.nextDouble());
    return "" + (char) ('a' + rank % 7) + (char) ('a' + rank / 7 % 26) + rank;
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    fields.put("name", List.of(words(random, 1 + random.nextInt(4))));
    fields.put("notes", List.of(words(random, random.nextInt(120))));
    fields.put("tag", List.of(word(random)));
    if (random.nextInt(5) > 0) {
      fields.put("height", List.of((long) random.nextInt(150)));
    }
    return new Document(key, fields, new byte[0], 1);
  }

  private static String words(Random random, int count) {
    StringBuilder text = new StringBuilder();
    for (int i = 0; i < count; i++) {
      text.append(word(random)).append(' ');
    }
    return text.toString();
  }
}
