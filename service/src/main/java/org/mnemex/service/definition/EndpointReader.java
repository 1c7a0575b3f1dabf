package org.mnemex.service.definition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.text.Collation;
import org.mnemex.service.definition.EndpointDefinition.Facet;
import org.mnemex.service.definition.EndpointDefinition.GroupBy;
import org.mnemex.service.definition.EndpointDefinition.Highlight;
import org.mnemex.service.definition.EndpointDefinition.Lift;
import org.mnemex.service.definition.EndpointDefinition.RankSignal;
import org.mnemex.service.definition.EndpointDefinition.SortBy;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;

/** Reads an endpoint definition. */
final class EndpointReader {
  private static final String RELEVANCE = "relevance";
  private static final int TOTAL_UP_TO = 10_000;

  private static final int LIMIT_MILLIS = 10_000;
  private static final int PAGE_SIZE = 20;
  private static final int PAGE_MOST = 100;
  private static final int MAX_MARK = 100;
  private static final String OPEN = "<mark>";
  private static final String CLOSE = "</mark>";
  private static final int BEST_OF_GROUP = 3;
  private static final int MAX_LIFTS = 50;
  private static final int FRAGMENT_WORDS = 25;
  private static final int MAX_PER_MINUTE = 10_000_000;

  private final YamlMap map;
  private final String name;

  EndpointReader(YamlMap map, String name) {
    this.map = map;
    this.name = name;
  }

  EndpointDefinition read() {
    Map<String, Double> search = new LinkedHashMap<>();
    YamlMap weights = map.mapOrNull("search");
    if (weights != null) {
      weights.each(field -> search.put(field, weights.numberOr(field, 1)));
    }
    Collected problems = new Collected();
    Page page = problems.of(new Page(PAGE_SIZE, PAGE_MOST), this::page);
    Wanted words = problems.of(Wanted.ALL, this::words);
    Map<String, Facet> facets = problems.of(Map.of(), () -> FacetReader.read(map));
    Map<String, Map<String, Double>> languages = problems.of(Map.of(), this::languages);
    List<CompletionSource> completions = problems.of(List.of(), () -> CompletionReader.read(map));
    Map<String, List<SortBy>> sorts = problems.of(Map.of(), this::sorts);
    Map<String, Highlight> highlights = problems.of(Map.of(), this::highlights);
    List<RankSignal> signals = problems.of(List.of(), this::signals);
    problems.throwIfAny();
    return new EndpointDefinition(
        name,
        map.text("index"),
        map.has("title") ? map.text("title") : FieldTitle.of(name),
        search,
        languages,
        words,
        map.textOr("only", null),
        facets,
        map.texts("countable"),
        completions,
        sorts,
        groups(),
        map.texts("show"),
        card(),
        highlights,
        page.size,
        page.most,
        map.booleanOr("typos", false),
        map.booleanOr("close", true),
        signals,
        lifts(),
        map.integerOr("limit_ms", LIMIT_MILLIS, 1, 600_000),
        map.integerOr("total_up_to", TOTAL_UP_TO, 0, Integer.MAX_VALUE),
        map.numberOr("least_score", 0),
        map.texts("origins"),
        map.integerOr("per_minute", 0, 1, MAX_PER_MINUTE),
        map.wordOr("missing_shards", "refuse", Set.of("refuse", "leave_out")).equals("leave_out"));
  }

  private record Page(int size, int most) {}

  private Page page() {
    YamlMap page = map.mapOrNull("page");
    if (page == null) {
      return new Page(PAGE_SIZE, PAGE_MOST);
    }
    int most = page.integerOr("most", PAGE_MOST, 1, 1000);
    int size = page.integerOr("size", Math.min(PAGE_SIZE, most), 1, most);
    page.finish();
    return new Page(size, most);
  }

  private Card card() {
    YamlMap card = map.mapOrNull("card");
    if (card == null) {
      return Card.NONE;
    }
    Card read =
        new Card(
            card.textOr("title", null),
            card.textOr("subtitle", null),
            card.textOr("picture", null),
            card.textOr("link", null));
    card.finish();
    return read;
  }

  private Wanted words() {
    String text = String.valueOf(map.textOr("words", "all"));
    Wanted words = WantedWords.parse(text);
    if (words == null) {
      throw map.problem("words", "'%s' is none of %s".formatted(text, WantedWords.FORMS), null);
    }
    return words;
  }

  private Map<String, Map<String, Double>> languages() {
    Map<String, Map<String, Double>> languages = new LinkedHashMap<>();
    YamlMap all = map.mapOrNull("languages");
    if (all != null) {
      all.each(
          tag -> {
            if (Locale.forLanguageTag(tag).getLanguage().isEmpty()) {
              throw all.problem(
                  tag, "'%s' is not a language such as de or pt-BR (BCP 47)".formatted(tag), null);
            }
            YamlMap weights = all.map(tag);
            Map<String, Double> fields = new LinkedHashMap<>();
            weights.each(field -> fields.put(field, weights.numberOr(field, 1)));
            languages.put(tag, fields);
          });
    }
    return languages;
  }

  private List<Lift> lifts() {
    List<Lift> lifts = new ArrayList<>();
    for (Node item : map.items("lifts")) {
      YamlMap one = map.mapOf(item, "lifts");
      lifts.add(new Lift(one.text("where"), one.numberOr("by", 2)));
      one.finish();
      if (lifts.size() > MAX_LIFTS) {
        throw map.problemAt(item, "lifts", "there are at most " + MAX_LIFTS + " of them", null);
      }
    }
    return lifts;
  }

  private List<RankSignal> signals() {
    List<RankSignal> signals = new ArrayList<>();
    YamlMap all = map.mapOrNull("signals");
    if (all == null) {
      return signals;
    }
    all.each(field -> signals.add(signal(all, field)));
    return signals;
  }

  private static RankSignal signal(YamlMap all, String field) {
    YamlMap one = all.map(field);
    RankSignal.Shape shape =
        RankSignal.Shape.valueOf(
            one.wordOr("shape", "", Set.of("logarithm", "saturating", "age", "distance"))
                .toUpperCase(Locale.ROOT));
    boolean halved = shape != RankSignal.Shape.LOGARITHM;
    if (halved && !one.has("half")) {
      throw all.problem(
          field, "'half' says where it is worth one half: a value, days or metres", null);
    }
    RankSignal signal =
        new RankSignal(
            field,
            shape,
            one.numberOr("weight", 1),
            halved ? one.integerOr("half", 1, 1, Integer.MAX_VALUE) : 1,
            curve(all, field, one, shape));
    one.finish();
    return signal;
  }

  private static Signal.Curve curve(
      YamlMap all, String field, YamlMap signal, RankSignal.Shape shape) {
    boolean falls = shape == RankSignal.Shape.AGE || shape == RankSignal.Shape.DISTANCE;
    if (signal.has("curve") && !falls) {
      throw all.problem(field, "only an age or a distance has a curve", null);
    }
    return Signal.Curve.valueOf(
        signal
            .wordOr("curve", "exponential", Set.of("exponential", "linear", "gaussian"))
            .toUpperCase(Locale.ROOT));
  }

  private Map<String, List<SortBy>> sorts() {
    Map<String, List<SortBy>> sorts = new LinkedHashMap<>();
    YamlMap all = map.mapOrNull("sorts");
    if (all == null) {
      sorts.put("best", List.of());
      return sorts;
    }
    all.each(sort -> sorts.put(sort, keys(all, sort)));
    return sorts;
  }

  private static List<SortBy> keys(YamlMap all, String sort) {
    List<SortBy> keys = new ArrayList<>();
    boolean byRelevance = false;
    for (Node item : all.items(sort)) {
      if (byRelevance) {
        throw all.problemAt(
            item, sort, "what comes behind relevance would hardly ever decide", null);
      }
      SortBy key = sortBy(all, sort, item);
      byRelevance = key.field().equals(RELEVANCE);
      if (!byRelevance) {
        keys.add(key);
      }
    }
    if (keys.isEmpty() && !byRelevance) {
      throw all.problem(sort, "an order needs a field or 'relevance'", null);
    }
    if (keys.size() > SearchRequest.MAX_SORTS) {
      throw all.problem(sort, "an order has at most " + SearchRequest.MAX_SORTS + " fields", null);
    }
    return keys;
  }

  private Map<String, GroupBy> groups() {
    Map<String, GroupBy> groups = new LinkedHashMap<>();
    YamlMap all = map.mapOrNull("groups");
    if (all != null) {
      for (String group : all.allKeys()) {
        YamlMap one = all.map(group);
        groups.put(
            group,
            new GroupBy(
                one.text("field"),
                one.integerOr("best", BEST_OF_GROUP, 1, SearchRequest.Group.MAX_BEST)));
        one.finish();
      }
    }
    return groups;
  }

  private static SortBy sortBy(YamlMap all, String sort, Node item) {
    if (item instanceof ScalarNode) {
      return sortBy(all.scalar(item, all.path(sort)), false, null);
    }
    YamlMap one = all.mapOf(item, sort);
    boolean missingFirst = one.wordOr("missing", "last", Set.of("first", "last")).equals("first");
    String language = one.textOr("language", null);
    if (language != null && !Collation.has(language)) {
      throw one.problem(
          "language",
          "there is no order of names for language '%s'; write a tag such as de, sv or es"
              .formatted(language),
          null);
    }
    SortBy key = sortBy(one.text("by"), missingFirst, language);
    one.finish();
    return key;
  }

  private static SortBy sortBy(String by, boolean missingFirst, @Nullable String language) {
    boolean descending = by.startsWith("-");
    return new SortBy(descending ? by.substring(1) : by, descending, missingFirst, language);
  }

  private Map<String, Highlight> highlights() {
    Map<String, Highlight> highlights = new LinkedHashMap<>();
    YamlMap all = map.mapOrNull("highlights");
    if (all == null) {
      return highlights;
    }
    all.each(field -> highlights.put(field, highlight(all, field)));
    return highlights;
  }

  private static Highlight highlight(YamlMap all, String field) {
    if (all.value(field) instanceof ScalarNode) {
      all.wordOr(field, "", Set.of("whole"));
      return new Highlight(0, 0, false, OPEN, CLOSE);
    }
    YamlMap one = all.map(field);
    List<String> marks = one.has("marks") ? one.texts("marks") : List.of(OPEN, CLOSE);
    if (marks.size() != 2 || marks.stream().anyMatch(mark -> mark.length() > MAX_MARK)) {
      throw one.problem(
          "marks",
          "two texts of at most %d characters are wanted, for before and behind"
              .formatted(MAX_MARK),
          null);
    }
    Highlight highlight =
        new Highlight(
            one.integerOr("fragments", 2, 0, 20),
            one.integerOr("words", FRAGMENT_WORDS, 3, 500),
            one.booleanOr("sentences", false),
            marks.get(0),
            marks.get(1));
    one.finish();
    return highlight;
  }
}
