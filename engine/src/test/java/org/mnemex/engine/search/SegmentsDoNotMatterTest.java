package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.mnemex.engine.ApartShards;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.HelpingThreads;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.HistogramFacet;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.OrNoneFacet;
import org.mnemex.engine.facet.RangeFacet;
import org.mnemex.engine.facet.RowFacet;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.facet.StatisticsFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.text.Components;

/**
 * Editions with the same documents answer the same, to the last digit of a score, whatever became
 * of their segments: one that changed for long, one that was filled anew, and several that have a
 * part of the documents each. Nor does it matter whether their segments are searched one after
 * another or in parts at the same time.
 */
class SegmentsDoNotMatterTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              text("title"),
              text("notes"),
              Field.of("tag", FieldType.EXACT, null, Use.SEARCH, Use.FILTER, Use.FACET, Use.SORT),
              Field.decimal("price", 2, Use.FILTER, Use.FACET, Use.SORT, Use.RANK),
              folded("kind", Use.FILTER, Use.FACET, Use.SORT),
              Field.group("visits", List.of(folded("visits.by")))));

  private static final Map<String, Double> BOTH = Map.of("title", 3.0, "notes", 1.0);

  private final TemporaryFolders folders = new TemporaryFolders();

  private static Field text(String name) {
    return Field.of(
        name,
        FieldType.TEXT,
        Components.analysers().get("words"),
        Use.SEARCH,
        Use.SHOW,
        Use.SUGGEST);
  }

  private static Field folded(String name, Use... uses) {
    return new Field(name, FieldType.EXACT, Set.of(uses), true, 1, null, null);
  }

  @AfterTry
  void clean() {
    folders.close();
  }

  @Property(tries = 15)
  void theSameDocumentsAnswerTheSame(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Map<String, Document> truth = new TreeMap<>();
    int keys = 1 + random.nextInt(600);
    try (EditionFolder changed = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int rounds = 1 + random.nextInt(4); rounds > 0; rounds--) {
        change(changed, truth, keys, random);
        // Asked between changes, so that what was counted before is carried on.
        try (EditionFolder fresh = EditionFolder.open(folders.create(), SCHEMA)) {
          fill(fresh, truth, random);
          for (int i = 0; i < 30; i++) {
            compare(request(random), changed.view(), fresh.view());
          }
          compareShards(changed, truth, random);
          String typed = words(random, 1);
          SuggestRequest wrong = SuggestRequest.of(typed, 5, "title", "notes");
          assertThat(changed.correct(wrong)).as(typed).isEqualTo(fresh.correct(wrong));
          compareCompletions(typed, changed, fresh, truth, random);
        }
      }
    }
  }

  /** Columns are read by blocks of 1,024 values. */
  @Property(tries = 3)
  void partsOfALargeSegmentAnswerTheSame(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      for (int i = 2_000 + random.nextInt(4_000); i > 0; i--) {
        edition.put(document("k" + i, random));
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < 40; i++) {
        compare(request(random), edition.view(), edition.view());
      }
    }
  }

  private static void change(
      EditionFolder edition, Map<String, Document> truth, int keys, Random random)
      throws IOException {
    for (int i = random.nextInt(2 * keys); i > 0; i--) {
      String key = "k" + random.nextInt(keys);
      if (random.nextInt(3) == 0) {
        edition.delete(key);
        truth.remove(key);
      } else {
        Document document = document(key, random);
        edition.put(document);
        truth.put(key, document);
      }
      if (random.nextInt(100) == 0) {
        edition.refresh(Checkpoint.NONE);
        if (random.nextBoolean()) {
          edition.mergeStep();
        }
        // A search of meanwhile.
        edition.search(SearchRequest.of(word(random), 1));
      }
    }
    edition.refresh(Checkpoint.NONE);
  }

  private static void fill(EditionFolder edition, Map<String, Document> truth, Random random)
      throws IOException {
    List<Document> documents = new ArrayList<>(truth.values());
    Collections.shuffle(documents, random);
    int atOnce = 1 + random.nextInt(1 + documents.size());
    for (int i = 0; i < documents.size(); i++) {
      edition.put(documents.get(i));
      if (i % atOnce == 0) {
        edition.refresh(Checkpoint.NONE);
      }
    }
    edition.refresh(Checkpoint.NONE);
  }

  private void compareShards(EditionFolder whole, Map<String, Document> truth, Random random)
      throws IOException {
    int count = List.of(1, 2, 7).get(random.nextInt(3));
    List<Map<String, Document>> parts = new ArrayList<>();
    for (int i = 0; i < count; i++) {
      parts.add(new TreeMap<>());
    }
    truth.forEach((key, document) -> parts.get(random.nextInt(count)).put(key, document));
    List<EditionFolder> shards = new ArrayList<>();
    try {
      List<SearchView> views = new ArrayList<>();
      for (Map<String, Document> part : parts) {
        EditionFolder shard = EditionFolder.open(folders.create(), SCHEMA);
        shards.add(shard);
        fill(shard, part, random);
        views.add(shard.view());
      }
      SearchView together = SearchView.of(views, Checkpoint.NONE);
      compareViews(whole.view(), together, random);
      compareViews(whole.view(), ApartShards.together(views, SCHEMA, Checkpoint.NONE), random);
    } finally {
      for (EditionFolder shard : shards) {
        shard.close();
      }
    }
  }

  private static void compareViews(SearchView one, SearchView other, Random random) {
    for (int i = 0; i < 15; i++) {
      compare(request(random), one, other);
    }
    SuggestRequest typed = SuggestRequest.of(words(random, 1), 5, "title", "notes");
    assertThat(other.words(typed)).isEqualTo(one.words(typed));
    assertThat(other.correct(typed, 2)).isEqualTo(one.correct(typed, 2));
    Map<String, List<String>> texts = Map.of("title", List.of(words(random, 3)));
    assertThat(other.similar(BOTH, texts, 1, SearchLimits.NONE))
        .isEqualTo(one.similar(BOTH, texts, 1, SearchLimits.NONE));
    assertThat(other.values("tag", "t", 3, new Query.Everything(), SearchLimits.NONE).size())
        .isEqualTo(one.values("tag", "t", 3, new Query.Everything(), SearchLimits.NONE).size());
  }

  private static void compare(SearchRequest request, SearchView one, SearchView other) {
    SearchResult expected = one.search(request);
    assertThat(other.search(request)).as(request.toString()).isEqualTo(expected);
    SearchView helped = other.helpedBy(new HelpingThreads(2 + expected.hits().size() % 3));
    assertThat(helped.search(request)).as("helped: " + request).isEqualTo(expected);
    if (!expected.hits().isEmpty() && request.group() == null && request.offset() == 0) {
      SearchResult.Hit last = expected.hits().getLast();
      SearchRequest next = request.after(last.cursor());
      SearchResult following = one.search(next);
      assertThat(other.search(next)).as(next.toString()).isEqualTo(following);
      assertThat(helped.search(next)).as("helped: " + next).isEqualTo(following);
      assertThat(other.explain(request, last.key())).isEqualTo(one.explain(request, last.key()));
    }
  }

  /** Beginnings of one letter have more terms than a segment keeps. */
  private static void compareCompletions(
      String word,
      EditionFolder one,
      EditionFolder other,
      Map<String, Document> truth,
      Random random) {
    for (int length = 1; length <= word.length(); length++) {
      String typed = word.substring(0, length);
      int edits = random.nextInt(3);
      boolean prefix = random.nextInt(4) > 0;
      int most = 1 + random.nextInt(8);
      List<Completions.Completion> found = completions(one, typed, edits, prefix, most);
      assertThat(completions(other, typed, edits, prefix, most)).as(typed).isEqualTo(found);
      if (prefix && edits == 0) {
        assertThat(found).as(typed).isEqualTo(completions(truth, typed, most));
      }
    }
  }

  private static List<Completions.Completion> completions(
      EditionFolder edition, String typed, int edits, boolean prefix, int most) {
    return Completions.of(
        edition.snapshot(), SCHEMA.field("title"), typed, edits, prefix, most, Budget.none());
  }

  /** Words of titles, counted one by one. */
  private static List<Completions.Completion> completions(
      Map<String, Document> truth, String typed, int most) {
    Map<String, Long> counts = new TreeMap<>();
    for (Document document : truth.values()) {
      Stream.of(document.fields().get("title").getFirst().toString().split(" "))
          .filter(word -> !word.isEmpty() && word.startsWith(typed))
          .distinct()
          .forEach(word -> counts.merge(word, 1L, Long::sum));
    }
    return counts.entrySet().stream()
        .sorted(Map.Entry.<String, Long>comparingByValue().reversed())
        .limit(most)
        .map(entry -> new Completions.Completion(entry.getKey(), 1, entry.getValue()))
        .toList();
  }

  private static SearchRequest request(Random random) {
    List<FacetRequest> facets = new ArrayList<>();
    ValueFacet tags =
        new ValueFacet("tags", "tag", List.of(), 1 + random.nextInt(4), FacetOrder.COUNT);
    if (random.nextInt(3) == 0) {
      facets.add(random.nextBoolean() ? tags.choosing(List.of("t1")) : tags);
      facets.add(new StatisticsFacet("told", "price", List.of(50.0)));
      facets.add(
          new SplitFacet(tags, new HistogramFacet("in", "price", BigDecimal.ONE, List.of())));
      facets.add(
          new OrNoneFacet(
              new ValueFacet("kinds", "kind", List.of(), 3, FacetOrder.COUNT), "none", false));
      facets.add(new ValueFacet("prices", "price", List.of(), 3, FacetOrder.COUNT));
      facets.add(
          new RangeFacet(
              "dear",
              "price",
              List.of(new Interval("over 4", new BigDecimal(4), null)),
              List.of()));
      facets.add(
          new RowFacet(
              new ValueFacet("by", "visits.by", List.of(), 3, FacetOrder.VALUE),
              random.nextBoolean()));
    }
    List<SearchRequest.Sort> sorts = new ArrayList<>();
    if (random.nextInt(4) == 0) {
      sorts.add(new SearchRequest.Sort(random.nextBoolean() ? "tag" : "price", true));
    }
    SearchRequest request =
        SearchRequest.of(query(random, 0), 1 + random.nextInt(20), "title")
            .at(random.nextInt(3), 1 + random.nextInt(20), facets)
            .sortedBy(sorts)
            .countingUpTo(Long.MAX_VALUE);
    if (random.nextInt(4) == 0) {
      request =
          request.rankedBy(
              List.of(
                  random.nextBoolean()
                      ? new Signal.Logarithm("price", 0.7)
                      : new Signal.Lift(condition(random), 1.5)));
    }
    if (random.nextInt(6) == 0) {
      String field = random.nextBoolean() ? "tag" : "kind";
      request = request.groupedBy(new SearchRequest.Group(field, 2));
    }
    if (random.nextInt(6) == 0) {
      request = request.scoringAtLeast(random.nextDouble());
    }
    if (random.nextInt(4) == 0) {
      request = request.asking(request.query(), condition(random));
    }
    return request;
  }

  private static Query condition(Random random) {
    return switch (random.nextInt(4)) {
      case 0 -> new Query.Holds(query(random, 1));
      case 1 -> new Query.Unless(query(random, 1));
      case 2 -> new Query.Not(new Query.AnyOf(List.of(query(random, 1), query(random, 1))));
      default ->
          new Query.Group("visits", new Query.OneOf("visits.by", List.of(spelt("ann", random))));
    };
  }

  private static Query query(Random random, int depth) {
    return switch (random.nextInt(depth > 1 ? 9 : 13)) {
      case 0 -> new Query.Word(BOTH, words(random, 1), true);
      case 1 -> Edits.word(BOTH, words(random, 1), random.nextBoolean(), 1 + random.nextInt(12));
      case 2 -> new Query.Phrase(BOTH, words(random, 2), random.nextInt(3), false);
      // One letter begins more words than are compared by position.
      case 3 -> new Query.Phrase(BOTH, words(random, 1) + " a", 1, true);
      case 4 -> new Query.Wildcard(BOTH, "*" + words(random, 1).charAt(0) + "?");
      case 5 -> new Query.Term("tag", "t" + random.nextInt(4));
      case 6 -> new Query.Near(BOTH, List.of(words(random, 1), words(random, 1)), 4, false);
      case 7, 8 -> word(random);
      case 9 -> new Query.AllOf(List.of(query(random, depth + 1), query(random, depth + 1)));
      case 10 -> new Query.AnyOf(List.of(query(random, depth + 1), query(random, depth + 1)));
      case 11 ->
          new Query.Some(
              new Wanted(1, 0.4), List.of(word(random), word(random), query(random, depth + 1)));
      default -> new Query.Everything();
    };
  }

  private static Query word(Random random) {
    return new Query.Word(BOTH, words(random, 1), false);
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new HashMap<>();
    fields.put("title", List.of(words(random, random.nextInt(5))));
    if (random.nextInt(4) > 0) {
      // Longer than lengths are kept exactly, now and then.
      fields.put(
          "notes", List.of(words(random, random.nextInt(random.nextInt(9) == 0 ? 300 : 20))));
    }
    fields.put(
        "tag",
        random
            .ints(1 + random.nextInt(2), 0, 1 + random.nextInt(9))
            .<Object>mapToObj(tag -> "t" + tag)
            .distinct()
            .toList());
    fields.put("price", List.of(BigDecimal.valueOf(random.nextInt(900), 2)));
    if (random.nextInt(5) > 0) {
      fields.put("kind", List.of(spelt("fern", random)));
    }
    fields.put(
        "visits",
        IntStream.range(0, random.nextInt(3))
            .<Object>mapToObj(i -> new GroupRow(Map.of("by", List.of(spelt("ann", random)))))
            .toList());
    return new Document(key, fields, new byte[] {7}, random.nextLong());
  }

  private static String spelt(String value, Random random) {
    String longer = value + random.nextInt(4);
    return random.nextBoolean() ? longer : longer.toUpperCase(Locale.ROOT);
  }

  /** Words that are often alike, the first letters of the alphabet more often than others. */
  private static String words(Random random, int count) {
    StringBuilder text = new StringBuilder();
    for (int i = 0; i < count; i++) {
      text.append(i == 0 ? "" : " ");
      for (int letters = 2 + random.nextInt(4); letters > 0; letters--) {
        text.append((char) ('a' + random.nextInt(1 + random.nextInt(5))));
      }
    }
    return text.toString();
  }
}
