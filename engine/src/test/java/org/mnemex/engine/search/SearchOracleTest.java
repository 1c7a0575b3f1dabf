package org.mnemex.engine.search;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Predicate;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.junit.jupiter.api.Assertions;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetResult;
import org.mnemex.engine.facet.Interval;
import org.mnemex.engine.facet.RangeFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.TokenPaths;

/** Random documents, changes and queries, against scans that are too simple to be wrong. */
class SearchOracleTest {
  private static final String[] WORDS = {
    "fern", "ferns", "shade", "slug", "the", "moss", "ash", "washed", "ashes", "damp"
  };
  private static final String[] FAMILIES = {"Aspleniaceae", "Rosaceae", "Ericaceae", "Été", "ete"};
  private static final Map<String, Double> TEXT = Map.of("name", 3.0, "notes", 1.0);
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of(
                  "name",
                  FieldType.TEXT,
                  Components.analysers().get("words"),
                  Use.SEARCH,
                  Use.SHOW),
              Field.of("notes", FieldType.TEXT, Components.analysers().get("english"), Use.SEARCH),
              Field.of("family", FieldType.EXACT, null, Use.FACET, Use.FILTER, Use.SORT),
              Field.of("height", FieldType.INTEGER, null, Use.FACET, Use.FILTER, Use.SORT),
              Field.of("evergreen", FieldType.BOOLEAN, null, Use.FACET)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  void clean() {
    folders.close();
  }

  @Property(tries = 150)
  void resultsEqualAScan(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Map<String, Document> truth = new TreeMap<>();
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      change(random, truth, edition);
      for (int i = 0; i < 8; i++) {
        compare(random, truth, edition);
      }
    }
  }

  private static void change(Random random, Map<String, Document> truth, EditionFolder edition)
      throws IOException {
    int changes = random.nextInt(120);
    for (int i = 0; i < changes; i++) {
      String key = "QB-" + random.nextInt(60);
      if (random.nextInt(5) == 0) {
        Assertions.assertEquals(truth.remove(key) != null, edition.delete(key));
      } else {
        Document document = document(key, random);
        truth.put(key, document);
        edition.put(document);
      }
      if (random.nextInt(10) == 0) {
        edition.refresh(Checkpoint.NONE);
      }
      if (random.nextInt(15) == 0) {
        edition.mergeStep();
      }
    }
    edition.refresh(Checkpoint.NONE);
  }

  private static Document document(String key, Random random) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (String field : TEXT.keySet()) {
      List<Object> values = new ArrayList<>();
      for (int n = random.nextInt(3); n > 0; n--) {
        StringBuilder text = new StringBuilder();
        for (int w = 1 + random.nextInt(5); w > 0; w--) {
          text.append(WORDS[random.nextInt(WORDS.length)]).append(' ');
        }
        values.add(text.toString());
      }
      fields.put(field, values);
    }
    if (random.nextInt(4) > 0) {
      fields.put("family", List.of(FAMILIES[random.nextInt(FAMILIES.length)]));
    }
    List<Object> heights = new ArrayList<>();
    for (int n = random.nextInt(3); n > 0; n--) {
      heights.add((long) random.nextInt(100));
    }
    fields.put("height", heights);
    fields.put("evergreen", List.of(random.nextBoolean()));
    return new Document(key, fields, new byte[] {1}, random.nextLong());
  }

  private static void compare(Random random, Map<String, Document> truth, EditionFolder edition) {
    boolean all = random.nextBoolean();
    String typed = typed(random);
    Query query = QueryText.parse(typed, TEXT, all, false);
    List<Object> families =
        random.nextBoolean() ? List.of() : List.of(FAMILIES[random.nextInt(FAMILIES.length)]);
    Interval low = new Interval("..50", null, 50L);
    Interval high = new Interval("50..", 50L, null);
    List<Interval> heights = random.nextBoolean() ? List.of() : List.of(high);
    SearchRequest.Sort sort =
        switch (random.nextInt(3)) {
          case 0 -> new SearchRequest.Sort("family", random.nextBoolean());
          case 1 -> new SearchRequest.Sort("height", random.nextBoolean());
          default -> null;
        };
    long least = random.nextInt(60);
    Query filter = new Query.Not(new Query.Range("height", null, false, least, false));
    int offset = random.nextInt(5);
    SearchRequest request =
        new SearchRequest(
            query,
            filter,
            sort,
            offset,
            7,
            List.of(
                new ValueFacet("family", "family", families, 100, FacetOrder.COUNT),
                new RangeFacet("height", "height", List.of(low, high), heights)),
            Set.of("name"),
            List.of());
    SearchResult found = edition.search(request);

    Oracle oracle = new Oracle(truth, edition);
    Predicate<Document> base =
        d -> values(d, "height").noneMatch(h -> (Long) h < least) && oracle.matches(query, d);
    Predicate<Document> byFamily =
        d -> families.isEmpty() || values(d, "family").anyMatch(families::contains);
    Predicate<Document> byHeight =
        d -> heights.isEmpty() || values(d, "height").anyMatch(h -> (Long) h >= 50);
    List<Document> expected =
        truth.values().stream()
            .filter(base.and(byFamily).and(byHeight))
            .sorted(oracle.order(query, sort))
            .toList();
    assertThat(found.total()).as(typed).isEqualTo(expected.size());
    List<Document> page = expected.stream().skip(offset).limit(7).toList();
    // Sums of the same scores in another order differ in their last bits: these are ties.
    Comparator<Document> order = oracle.order(query, sort);
    assertThat(found.hits())
        .as(typed)
        .extracting(hit -> truth.get(hit.key()))
        .doesNotHaveDuplicates()
        .usingElementComparator((a, b) -> oracle.isTie(query, sort, a, b) ? 0 : order.compare(a, b))
        .containsExactlyElementsOf(page);
    for (SearchResult.Hit hit : found.hits()) {
      Document document = truth.get(hit.key());
      assertThat(hit.score()).isCloseTo(oracle.score(query, document), within(1e-9));
      assertThat(hit.fields().get("name")).isEqualTo(document.fields().get("name"));
    }
    Map<Object, Long> familyCounts = new HashMap<>();
    truth.values().stream()
        .filter(base.and(byHeight))
        .flatMap(d -> values(d, "family"))
        .forEach(family -> familyCounts.merge(family, 1L, Long::sum));
    families.forEach(chosen -> familyCounts.putIfAbsent(chosen, 0L));
    assertThat(counts(found.facets().get(0))).isEqualTo(familyCounts);
    List<Document> forHeights = truth.values().stream().filter(base.and(byFamily)).toList();
    assertThat(counts(found.facets().get(1)))
        .containsEntry(
            low,
            forHeights.stream()
                .filter(d -> values(d, "height").anyMatch(h -> (Long) h < 50))
                .count())
        .containsEntry(
            high,
            forHeights.stream()
                .filter(d -> values(d, "height").anyMatch(h -> (Long) h >= 50))
                .count());
  }

  private static String typed(Random random) {
    StringBuilder out = new StringBuilder();
    for (int n = random.nextInt(4); n > 0; n--) {
      String word = WORDS[random.nextInt(WORDS.length)];
      String other = WORDS[random.nextInt(WORDS.length)];
      out.append(
          switch (random.nextInt(6)) {
            case 0 -> "\"" + word + " " + other + "\" ";
            case 1 -> "-" + word + " ";
            case 2 -> word + " OR " + other + " ";
            case 3 -> word.substring(0, 2) + "* ";
            default -> word + " ";
          });
    }
    return out.toString();
  }

  private static Map<Object, Long> counts(FacetResult facet) {
    Map<Object, Long> counts = new HashMap<>();
    facet.values().forEach(value -> counts.put(value.value(), value.count()));
    return counts;
  }

  private static Stream<Object> values(Document document, String field) {
    return document.fields().getOrDefault(field, List.of()).stream();
  }

  /** Matching and scoring by reading every document anew for every question. */
  private static final class Oracle {
    private final Map<String, Document> truth;
    private final EditionStatistics statistics;

    Oracle(Map<String, Document> truth, EditionFolder edition) {
      this.truth = truth;
      this.statistics =
          new EditionStatistics(
              edition.snapshot(), new Budget(SearchLimits.NONE, System::nanoTime, truth.size()));
    }

    Comparator<Document> order(Query query, SearchRequest.Sort sort) {
      Comparator<Document> byScore =
          Comparator.<Document>comparingDouble(d -> score(query, d))
              .reversed()
              .thenComparing(Document::key);
      if (sort == null) {
        return byScore;
      }
      return Comparator.<Document, Object>comparing(
              d -> sortValue(sort, d), Comparator.nullsLast(byValue(sort)))
          .thenComparing(byScore);
    }

    /** Whether only the last bits of their scores tell two documents apart. */
    boolean isTie(Query query, SearchRequest.Sort sort, Document a, Document b) {
      return Math.abs(score(query, a) - score(query, b)) < 1e-9
          && (sort == null || Objects.equals(sortValue(sort, a), sortValue(sort, b)));
    }

    private static Object sortValue(SearchRequest.Sort sort, Document d) {
      return values(d, sort.field()).min(byValue(sort)).orElse(null);
    }

    private static Comparator<Object> byValue(SearchRequest.Sort sort) {
      Comparator<Object> natural = (a, b) -> compareValues(a, b);
      return sort.descending() ? natural.reversed() : natural;
    }

    private static int compareValues(Object a, Object b) {
      return a instanceof Long x ? x.compareTo((Long) b) : ((String) a).compareTo((String) b);
    }

    boolean matches(Query query, Document d) {
      return switch (query) {
        case Query.Everything e -> true;
        case Query.AllOf all ->
            all.clauses().stream()
                    .allMatch(
                        c ->
                            (c instanceof Query.Word w && droppedSomewhere(w.text()))
                                || matches(c, d))
                && (all.clauses().stream()
                        .anyMatch(c -> !(c instanceof Query.Word w && droppedSomewhere(w.text())))
                    || all.clauses().isEmpty()
                    || all.clauses().stream().anyMatch(c -> matches(c, d)));
        case Query.AnyOf any -> any.clauses().stream().anyMatch(c -> matches(c, d));
        case Query.Not not -> !matches(not.clause(), d);
        case Query.Unless unless -> asksForNothing(unless.clause()) || !matches(unless.clause(), d);
        case Query.Word word ->
            word.fields().keySet().stream()
                .anyMatch(field -> frequency(d, field, word.text(), word.prefix()) > 0);
        case Query.Phrase phrase ->
            phrase.fields().keySet().stream()
                .anyMatch(field -> frequency(d, field, phrase.text(), false) > 0);
        default -> throw new IllegalArgumentException(query.toString());
      };
    }

    private static boolean asksForNothing(Query query) {
      return query instanceof Query.Word word
          && word.fields().keySet().stream()
              .allMatch(name -> wanted(SCHEMA.field(name), word.text(), word.prefix()).isEmpty());
    }

    private static boolean droppedSomewhere(String word) {
      return word.equals("the");
    }

    double score(Query query, Document d) {
      return switch (query) {
        case Query.AllOf all -> all.clauses().stream().mapToDouble(c -> scoreIf(c, d)).sum();
        case Query.AnyOf any -> any.clauses().stream().mapToDouble(c -> scoreIf(c, d)).sum();
        case Query.Word word -> bm25(word.fields(), word.text(), word.prefix(), d);
        case Query.Phrase phrase -> bm25(phrase.fields(), phrase.text(), false, d);
        default -> 0;
      };
    }

    private double scoreIf(Query query, Document d) {
      return matches(query, d) ? score(query, d) : 0;
    }

    private double bm25(Map<String, Double> fields, String text, boolean prefix, Document d) {
      double frequency = 0;
      double idf = Double.MAX_VALUE;
      long having = 0;
      boolean phrase = text.contains(" ");
      for (String name : fields.keySet()) {
        Field field = SCHEMA.field(name);
        List<AnalysedToken> tokens = wanted(field, text, prefix);
        double phraseIdf = 0;
        for (AnalysedToken token : tokens) {
          long df =
              prefix
                  ? statistics.documentFrequency(
                      field, new TermRule.Prefix(TokenPaths.utf8(token.text())))
                  : statistics.documentFrequency(field, TokenPaths.utf8(token.text()));
          having = Math.max(having, df);
          phraseIdf += WordMatcher.idf(statistics.documents(), df);
        }
        idf = tokens.isEmpty() ? idf : Math.min(idf, phraseIdf);
        int length =
            values(d, name).mapToInt(v -> field.analyser().tokens((String) v).size()).sum();
        double norm = 1 - WordMatcher.B + WordMatcher.B * length / statistics.averageLength(field);
        frequency += fields.get(name) * frequency(d, name, text, prefix) / norm;
      }
      double weight = phrase ? idf : WordMatcher.idf(statistics.documents(), having);
      return weight * frequency * (WordMatcher.K1 + 1) / (WordMatcher.K1 + frequency);
    }

    private static List<AnalysedToken> wanted(Field field, String text, boolean prefix) {
      List<AnalysedToken> tokens = field.queryAnalyser().tokens(text);
      return tokens.isEmpty() && prefix ? Components.analysers().get("words").tokens(text) : tokens;
    }

    private static int frequency(Document d, String name, String text, boolean prefix) {
      Field field = SCHEMA.field(name);
      List<AnalysedToken> wanted = wanted(field, text, prefix);
      if (wanted.isEmpty()) {
        return 0;
      }
      int count = 0;
      for (Object value : d.fields().getOrDefault(name, List.of())) {
        List<AnalysedToken> tokens = field.analyser().tokens((String) value);
        for (AnalysedToken start : tokens) {
          boolean all = true;
          for (AnalysedToken w : wanted) {
            int position = start.position() + w.position() - wanted.getFirst().position();
            all &=
                tokens.stream()
                    .anyMatch(
                        t ->
                            t.position() == position
                                && (prefix
                                    ? t.text().startsWith(w.text())
                                    : t.text().equals(w.text())));
          }
          count += all ? 1 : 0;
        }
      }
      return count;
    }

    @Override
    public String toString() {
      return "oracle of " + truth.size();
    }
  }
}
