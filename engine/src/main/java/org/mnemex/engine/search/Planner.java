package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.PatternText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.Components;
import org.mnemex.engine.text.Folding;
import org.mnemex.engine.text.TokenPaths;

/** Turns a query into a plan for an edition. */
final class Planner {
  /** Most clauses of a query, counted through all its levels. */
  static final int MAX_CLAUSES = 1_024;

  private static final int MAX_DEPTH = 120;

  /** Words that the unfinished last word of a phrase may be. */
  private static final int MAX_BEGINNINGS = 256;

  private static final Analyser WORDS = Objects.requireNonNull(Components.analysers().get("words"));

  private final Schema schema;
  private final Statistics statistics;
  private final boolean inGroup;
  private final Map<String, Planner> groups = new HashMap<>();
  private final List<Double> rarities = new ArrayList<>();
  private @Nullable Iterator<Double> given;
  private final IdentityHashMap<Query, Made> plans = new IdentityHashMap<>();
  private int clauses;
  private int depth;

  Planner(Schema schema, Statistics statistics) {
    this(schema, statistics, false);
  }

  private Planner(Schema schema, Statistics statistics, boolean inGroup) {
    this.schema = schema;
    this.statistics = statistics;
    this.inGroup = inGroup;
  }

  /** Plans conditions on the child rows of a group; the same one for all segments. */
  Planner within(Field group) {
    return groups.computeIfAbsent(group.name(), name -> new Planner(schema, statistics, true));
  }

  Schema schema() {
    return schema;
  }

  /** A plan for {@code query}; what asks for nothing, like a lone stopword, matches everything. */
  Plan plan(Query query) {
    Plan plan = planOrNull(query);
    return plan == null ? new Plan.Filter(new Query.Everything()) : plan;
  }

  /**
   * A plan with rarities of words that were computed for the same query before.
   *
   * @throws QueryRefusedException if they are not of this query
   */
  Plan plan(Query query, List<Double> raritiesBefore) {
    given = raritiesBefore.iterator();
    Plan plan = plan(query);
    if (given.hasNext()) {
      throw anotherQuery();
    }
    given = null;
    return plan;
  }

  static QueryRefusedException anotherQuery() {
    return new QueryRefusedException(
        "the cursor belongs to another search, or the index has changed; start again");
  }

  /** The rarities of the words of all plans so far. */
  List<Double> rarities() {
    return List.copyOf(rarities);
  }

  private Plan.Words words(String what, List<Plan.Part> parts, double idf) {
    if (given != null && !given.hasNext()) {
      throw anotherQuery();
    }
    double rarity = given == null ? idf : given.next();
    rarities.add(rarity);
    return new Plan.Words(what, parts, rarity);
  }

  /** As {@link #plan}, or null if the query asks for nothing. */
  @Nullable Plan planOrNull(Query query) {
    if (depth > 0) {
      return make(query);
    }
    // Once for all segments, so that what a query may be does not depend on how many there are.
    Made made = plans.get(query);
    if (made == null) {
      made = new Made(make(query));
      plans.put(query, made);
    }
    return made.plan;
  }

  private record Made(@Nullable Plan plan) {}

  private @Nullable Plan make(Query query) {
    if (++clauses > MAX_CLAUSES) {
      throw new QueryRefusedException(
          "the query has more than "
              + MAX_CLAUSES
              + " clauses; ask for many values with one IN instead");
    }
    if (++depth > MAX_DEPTH) {
      throw new QueryRefusedException("the query is nested more than " + MAX_DEPTH + " deep");
    }
    try {
      return switch (query) {
        case Query.AllOf all -> allOf(all.clauses());
        case Query.AnyOf any -> anyOf(any.clauses());
        case Query.Some some -> some(some);
        case Query.Prefer prefer -> prefer(prefer);
        case Query.Weighted weighted -> {
          Plan plan = planOrNull(weighted.query());
          yield plan == null ? null : new Plan.Scaled(plan, weighted.weight());
        }
        case Query.Word word -> word(word);
        case Query.Term term -> term(term);
        case Query.Phrase phrase -> phrase(phrase);
        case Query.Near near -> near(near);
        case Query.Wildcard wildcard ->
            rule(
                wildcard.fields(),
                field -> wildcard(wildcard.pattern(), written(field, wildcard.pattern())));
        case Query.Pattern pattern -> {
          TermRule rule =
              new TermRule.Matching(
                  pattern.expression(),
                  TermRule.Matching.Syntax.PATTERN,
                  PatternText.compile(pattern.expression()));
          yield rule(pattern.fields(), field -> rule);
        }
        case Query.Typo typo -> typo(typo);
        default -> new Plan.Filter(query);
      };
    } finally {
      depth--;
    }
  }

  private @Nullable Plan allOf(List<Query> clauses) {
    List<Plan> required = new ArrayList<>();
    List<Plan> optional = new ArrayList<>();
    for (Query clause : clauses) {
      Plan plan = planOrNull(clause);
      if (plan != null) {
        (mayBeMissing(clause) ? optional : required).add(plan);
      }
    }
    if (required.isEmpty()) {
      return optional.isEmpty() ? null : new Plan.Any(optional);
    }
    return required.size() == 1 && optional.isEmpty()
        ? required.getFirst()
        : new Plan.All(required, optional);
  }

  private @Nullable Plan anyOf(List<Query> clauses) {
    List<Plan> plans = new ArrayList<>();
    for (Query clause : clauses) {
      Plan plan = planOrNull(clause);
      if (plan != null) {
        plans.add(plan);
      }
    }
    return plans.isEmpty() && !clauses.isEmpty() ? null : new Plan.Any(plans);
  }

  /** Words that some field drops are optional and do not count towards the number wanted. */
  private @Nullable Plan some(Query.Some some) {
    List<Plan> counted = new ArrayList<>();
    List<Plan> optional = new ArrayList<>();
    for (Query clause : some.clauses()) {
      Plan plan = planOrNull(clause);
      if (plan != null) {
        (mayBeMissing(clause) ? optional : counted).add(plan);
      }
    }
    if (counted.isEmpty()) {
      return optional.isEmpty() ? null : new Plan.Any(optional);
    }
    int least = some.wanted().of(counted.size());
    if (least >= counted.size()) {
      return counted.size() == 1 && optional.isEmpty()
          ? counted.getFirst()
          : new Plan.All(counted, optional);
    }
    Plan enough = least == 1 ? new Plan.Any(counted) : new Plan.Some(least, counted);
    return optional.isEmpty() ? enough : new Plan.All(List.of(enough), optional);
  }

  private @Nullable Plan prefer(Query.Prefer prefer) {
    Plan plan = planOrNull(prefer.query());
    Plan preferred = planOrNull(prefer.preferred());
    if (plan == null || preferred == null) {
      return plan;
    }
    return new Plan.All(List.of(plan), List.of(preferred));
  }

  /** Whether some field drops the word; documents are then not to be missed for lack of it. */
  boolean mayBeMissing(Query clause) {
    return switch (clause) {
      case Query.Word word -> isDropped(word.fields(), word.text(), word.prefix());
      case Query.Typo typo -> isDropped(typo.fields(), typo.text(), typo.prefix());
      case Query.Weighted weighted -> mayBeMissing(weighted.query());
      default -> false;
    };
  }

  private boolean isDropped(Map<String, Double> fields, String text, boolean prefix) {
    return fields.keySet().stream()
        .map(this::searchable)
        .anyMatch(field -> tokens(field, text, prefix).isEmpty());
  }

  private @Nullable Plan word(Query.Word word) {
    List<Plan.Part> parts = new ArrayList<>();
    long having = 0;
    for (Map.Entry<String, Double> entry : ordered(word.fields())) {
      Field field = searchable(entry.getKey());
      for (TokenPaths.Path path : TokenPaths.of(tokens(field, word.text(), word.prefix()))) {
        if (path.slots().size() > 1) {
          having = Math.max(having, rarest(field, path, word.prefix()));
          parts.add(new Plan.Part(field, entry.getValue(), exactly(path, word.prefix())));
          continue;
        }
        for (String text : path.slots().getFirst()) {
          byte[] term = TokenPaths.utf8(text);
          if (word.prefix()) {
            TermRule rule = new TermRule.Prefix(term);
            having = Math.max(having, statistics.documentFrequency(field, rule));
            parts.add(new Plan.Part(field, entry.getValue(), new Plan.Terms(rule)));
          } else {
            having = Math.max(having, statistics.documentFrequency(field, term));
            parts.add(new Plan.Part(field, entry.getValue(), new Plan.Term(term)));
          }
        }
      }
    }
    return parts.isEmpty()
        ? null
        : words(
            "word '" + word.text() + (word.prefix() ? "*" : "") + "'",
            parts,
            WordMatcher.idf(statistics.documents(), having));
  }

  private Plan term(Query.Term query) {
    Field field = searchable(query.field());
    byte[] term = TokenPaths.utf8(query.term());
    return words(
        "term '" + query.term() + "'",
        List.of(new Plan.Part(field, 1, new Plan.Term(term))),
        WordMatcher.idf(statistics.documents(), statistics.documentFrequency(field, term)));
  }

  private static Plan.Positions exactly(TokenPaths.Path path, boolean prefix) {
    return slots(path, prefix, 0);
  }

  /** A phrase: every slot of a path is a word of its own. */
  private static Plan.Positions slots(TokenPaths.Path path, boolean prefix, int distance) {
    List<Plan.Unit> units = new ArrayList<>();
    for (Plan.Slot slot : slots(path, prefix)) {
      units.add(new Plan.Unit(List.of(new Plan.Way(List.of(slot), new int[1])), 1));
    }
    return new Plan.Positions(
        units,
        new PositionMatch(
            path.offsets(), Math.min(distance, PositionMatch.MAX_DISTANCE - 1), false));
  }

  private static List<Plan.Slot> slots(TokenPaths.Path path, boolean prefix) {
    List<Plan.Slot> slots = new ArrayList<>();
    for (List<String> terms : path.slots()) {
      boolean unfinished = prefix && slots.size() + 1 == path.slots().size();
      slots.add(
          new Plan.Slot(
              terms.stream().map(TokenPaths::utf8).toList(),
              unfinished ? beginning(terms.getFirst()) : null));
    }
    return slots;
  }

  /** The most frequent words that begin so: where positions are compared, all would be too many. */
  private static TermRule beginning(String text) {
    return new TermRule.Best(new TermRule.Prefix(TokenPaths.utf8(text)), MAX_BEGINNINGS);
  }

  private @Nullable Plan phrase(Query.Phrase phrase) {
    List<Plan.Part> parts = new ArrayList<>();
    double idf = Double.MAX_VALUE;
    for (Map.Entry<String, Double> entry : ordered(phrase.fields())) {
      Field field = searchable(entry.getKey());
      for (TokenPaths.Path path : TokenPaths.of(tokens(field, phrase.text(), phrase.prefix()))) {
        // Where the words are most common: as of a single word, and never of a field without them.
        idf = Math.min(idf, idfOf(field, path));
        if (path.slots().size() > 1 || phrase.prefix()) {
          parts.add(
              new Plan.Part(
                  field, entry.getValue(), slots(path, phrase.prefix(), phrase.distance())));
          continue;
        }
        for (String term : path.slots().getFirst()) {
          parts.add(new Plan.Part(field, entry.getValue(), new Plan.Term(TokenPaths.utf8(term))));
        }
      }
    }
    return parts.isEmpty() ? null : words("phrase '" + phrase.text() + "'", parts, idf);
  }

  private @Nullable Plan near(Query.Near near) {
    List<Plan.Part> parts = new ArrayList<>();
    double idf = Double.MAX_VALUE;
    for (Map.Entry<String, Double> entry : ordered(near.fields())) {
      Field field = searchable(entry.getKey());
      List<Plan.Unit> units = new ArrayList<>();
      double sum = 0;
      for (String word : near.words()) {
        List<Plan.Way> ways = new ArrayList<>();
        double best = Double.MAX_VALUE;
        int length = 1;
        for (TokenPaths.Path path : TokenPaths.of(tokens(field, word, false))) {
          ways.add(new Plan.Way(slots(path, false), path.offsets()));
          best = Math.min(best, idfOf(field, path));
          length = Math.max(length, path.length());
        }
        if (!ways.isEmpty()) {
          units.add(new Plan.Unit(ways, length));
          sum += best;
        }
      }
      if (!units.isEmpty()) {
        idf = Math.min(idf, sum);
        PositionMatch match =
            new PositionMatch(
                new int[units.size()],
                units.stream().mapToInt(Plan.Unit::length).toArray(),
                Math.min(near.distance() + 1, PositionMatch.MAX_DISTANCE),
                near.ordered());
        parts.add(new Plan.Part(field, entry.getValue(), new Plan.Positions(units, match)));
      }
    }
    return parts.isEmpty()
        ? null
        : words(
            "words " + near.words() + " with at most " + near.distance() + " between", parts, idf);
  }

  private @Nullable Plan typo(Query.Typo typo) {
    List<Plan.Part> parts = new ArrayList<>();
    long having = 0;
    String what = "";
    for (Map.Entry<String, Double> entry : ordered(typo.fields())) {
      Field field = searchable(entry.getKey());
      for (TokenPaths.Path path : TokenPaths.of(tokens(field, typo.text(), typo.prefix()))) {
        if (path.slots().size() > 1) {
          having = Math.max(having, rarest(field, path, typo.prefix()));
          parts.add(new Plan.Part(field, entry.getValue(), exactly(path, typo.prefix())));
          continue;
        }
        for (String term : path.slots().getFirst()) {
          TermRule all = new TermRule.Similar(term, typo.edits(), typo.same(), typo.prefix());
          TermRule rule = typo.most() > 0 ? new TermRule.Best(all, typo.most()) : all;
          what = rule.what();
          having = Math.max(having, statistics.documentFrequency(field, rule));
          parts.add(new Plan.Part(field, entry.getValue(), new Plan.Terms(rule)));
        }
      }
    }
    return parts.isEmpty()
        ? null
        : words("word " + what, parts, WordMatcher.idf(statistics.documents(), having));
  }

  private Plan rule(Map<String, Double> fields, Function<Field, TermRule> rules) {
    List<Plan.Part> parts = new ArrayList<>();
    long having = 0;
    String what = "";
    for (Map.Entry<String, Double> entry : ordered(fields)) {
      Field field = searchable(entry.getKey());
      TermRule rule = rules.apply(field);
      what = rule.what();
      having = Math.max(having, statistics.documentFrequency(field, rule));
      parts.add(new Plan.Part(field, entry.getValue(), new Plan.Terms(rule)));
    }
    return words("words " + what, parts, WordMatcher.idf(statistics.documents(), having));
  }

  /** Where a star ends it, all terms stand together that it describes. */
  private static TermRule wildcard(String pattern, String written) {
    int star = written.indexOf('*');
    boolean beginning = star > 0 && star == written.length() - 1 && written.indexOf('?') < 0;
    return beginning
        ? new TermRule.Prefix(written.substring(0, star).getBytes(StandardCharsets.UTF_8))
        : new TermRule.Matching(
            pattern, TermRule.Matching.Syntax.WILDCARD, PatternText.wildcard(written));
  }

  /** A part of a word as the field's terms are written. */
  private static String written(Field field, String part) {
    if (field.queryAnalyser() != null) {
      return field.queryAnalyser().part(part);
    }
    return field.fold() ? Folding.foldCase(part) : part;
  }

  /** In one order always, so that sums of the same numbers are the same numbers. */
  private static Iterable<Map.Entry<String, Double>> ordered(Map<String, Double> fields) {
    return new TreeMap<>(fields).entrySet();
  }

  /** Of the most common way through a path: the sum over its slots. */
  private double idfOf(Field field, TokenPaths.Path path) {
    double sum = 0;
    for (List<String> slot : path.slots()) {
      sum += WordMatcher.idf(statistics.documents(), mostFrequent(field, slot));
    }
    return sum;
  }

  private long mostFrequent(Field field, List<String> terms) {
    return terms.stream()
        .mapToLong(term -> statistics.documentFrequency(field, TokenPaths.utf8(term)))
        .max()
        .orElse(0);
  }

  /** In how many documents the rarest slot stands. */
  private long rarest(Field field, TokenPaths.Path path, boolean prefix) {
    long least = Long.MAX_VALUE;
    for (int i = 0; i < path.slots().size(); i++) {
      List<String> slot = path.slots().get(i);
      boolean unfinished = prefix && i + 1 == path.slots().size();
      least =
          Math.min(
              least,
              unfinished
                  ? statistics.documentFrequency(field, beginning(slot.getFirst()))
                  : mostFrequent(field, slot));
    }
    return least;
  }

  /**
   * Text goes through the field's query analyser; an exact field's whole value is the token. The
   * beginning of a word that happens to be a stopword ({@code an} of {@code anemone}) is kept.
   */
  static List<AnalysedToken> tokens(Field field, String text, boolean prefix) {
    if (field.queryAnalyser() != null) {
      List<AnalysedToken> tokens = field.queryAnalyser().tokens(text);
      return tokens.isEmpty() && prefix ? WORDS.tokens(text) : tokens;
    }
    String whole = field.term(text);
    return whole.isEmpty() ? List.of() : List.of(new AnalysedToken(whole, 0, text.length(), 0, 1));
  }

  private Field searchable(String name) {
    Field field = schema.field(name);
    if (!inGroup && field.isChild()) {
      throw new QueryRefusedException(
          "field '%s' belongs to child rows; use it inside a condition on the group"
              .formatted(name));
    }
    if (!field.uses().contains(Use.SEARCH) || !field.hasTerms()) {
      throw new QueryRefusedException(
          "field '" + name + "' cannot be searched; give it the use 'search' in the index");
    }
    return field;
  }
}
