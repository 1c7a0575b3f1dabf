package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;

/**
 * Explains the score of a document, or why it is not a result. Computes with the same matchers as a
 * search, in the same order, so its numbers add up exactly to the search's score.
 */
final class Explainer {
  private final SearchRequest request;
  private final ScoreBasis scores;
  private final SegmentView view;
  private final int doc;
  private final SegmentFilter filter;

  private Explainer(PreparedSearch search, SegmentView view, int doc) {
    this.request = search.request();
    this.scores = search.scores();
    this.view = view;
    this.doc = doc;
    this.filter = search.filter(view.reader());
  }

  /**
   * Explains the document of a key.
   *
   * @param search without remembered filters
   * @return the score with its parts; not matched if the document is no result, with the part that
   *     it lacks; null if there is no such document
   */
  static @Nullable Explanation explain(PreparedSearch search, String key) {
    byte[] utf8 = key.getBytes(StandardCharsets.UTF_8);
    for (SegmentView view : search.snapshot().segments()) {
      int doc = view.find(utf8);
      if (doc >= 0) {
        return new Explainer(search, view, doc).explain(key);
      }
    }
    return null;
  }

  private Explanation explain(String key) {
    List<Explanation> conditions = new ArrayList<>();
    if (!(request.filter() instanceof Query.Everything)) {
      conditions.add(condition("filter " + describe(request.filter()), request.filter()));
    }
    for (FacetRequest facet : request.facets()) {
      Query choice = facet.choice();
      if (!(choice instanceof Query.Everything)) {
        conditions.add(condition("what is chosen in facet '" + facet.name() + "'", choice));
      }
    }
    Plan plan = scores.plan();
    Explanation relevance = explain(plan);
    Signals signals = new Signals(scores.signals(), view.reader(), filter::bits);
    double base = plan instanceof Plan.Filter && !signals.isEmpty() ? 1 : relevance.value();
    List<Explanation> factors = new ArrayList<>();
    factors.add(
        new Explanation(
            "relevance: " + relevance.what(),
            base,
            relevance.matched(),
            relevance.how(),
            relevance.parts()));
    double score = base;
    if (!signals.isEmpty()) {
      // One factor, as the search multiplies with one: (a × b) × c is not always a × (b × c).
      double factor = signals.factor(doc);
      factors.add(
          new Explanation("signals", factor, true, Explanation.How.PRODUCT, signals.explain(doc)));
      score = base * factor;
    }
    if (request.leastScore() > 0) {
      boolean enough = score >= request.leastScore();
      conditions.add(
          new Explanation(
              "score of at least " + request.leastScore(),
              enough ? 1 : 0,
              enough,
              null,
              List.of()));
    }
    boolean matched = relevance.matched() && conditions.stream().allMatch(Explanation::matched);
    List<Explanation> parts = new ArrayList<>(factors);
    parts.addAll(conditions);
    return new Explanation(
        matched ? "score of '" + key + "'" : "'" + key + "' is not a result",
        matched ? score : 0,
        matched,
        Explanation.How.PRODUCT,
        parts);
  }

  /** A condition counts 1, so that products stay what they are. */
  private Explanation condition(String what, Query query) {
    boolean holds = filter.bits(query).get(doc);
    List<Explanation> parts = new ArrayList<>();
    if (query instanceof Query.AllOf all && !holds) {
      all.clauses().forEach(clause -> parts.add(condition(describe(clause), clause)));
    }
    return new Explanation(what, holds ? 1 : 0, holds, null, parts);
  }

  private Explanation explain(Plan plan) {
    return switch (plan) {
      case Plan.Words words -> words(words);
      case Plan.All all -> {
        List<Explanation> parts = new ArrayList<>();
        double sum = 0;
        boolean matched = true;
        for (Plan required : all.required()) {
          Explanation part = explain(required);
          parts.add(part);
          sum += part.value();
          matched &= part.matched();
        }
        for (Plan optional : all.optional()) {
          Explanation part = explain(optional);
          if (part.matched()) {
            parts.add(part);
            sum += part.value();
          }
        }
        yield new Explanation("all of", matched ? sum : 0, matched, Explanation.How.SUM, parts);
      }
      case Plan.Any any -> some("any of", 1, any.clauses());
      case Plan.Some some ->
          some("at least %d of".formatted(some.least()), some.least(), some.clauses());
      case Plan.Scaled scaled -> {
        Explanation inner = explain(scaled.plan());
        yield new Explanation(
            "weighted",
            inner.value() * scaled.factor(),
            inner.matched(),
            Explanation.How.PRODUCT,
            List.of(inner, Explanation.of("weight", scaled.factor())));
      }
      case Plan.Filter only -> {
        boolean holds = filter.bits(only.query()).get(doc);
        yield new Explanation(describe(only.query()), 0, holds, null, List.of());
      }
    };
  }

  private Explanation some(String what, int least, List<Plan> clauses) {
    List<Explanation> parts = new ArrayList<>();
    double sum = 0;
    int matched = 0;
    for (Plan clause : clauses) {
      Explanation part = explain(clause);
      parts.add(part);
      sum += part.value();
      matched += part.matched() ? 1 : 0;
    }
    boolean enough = matched >= least;
    return new Explanation(what, enough ? sum : 0, enough, Explanation.How.SUM, parts);
  }

  private Explanation words(Plan.Words words) {
    List<WordMatcher.FieldPart> all = new ArrayList<>();
    SegmentMatchers matchers = filter.matchers();
    words.parts().forEach(part -> matchers.addParts(part, all));
    List<Explanation> fields = new ArrayList<>();
    double frequency = 0;
    for (WordMatcher.InField in : WordMatcher.inFields(all, doc)) {
      frequency += in.value();
      var lengths = in.part().lengths();
      fields.add(
          Explanation.of(
              "field '%s': frequency %s × weight over length norm%s"
                  .formatted(
                      in.part().name(),
                      in.frequency(),
                      lengths == null
                          ? ""
                          : " (%d words)".formatted(LengthCode.length(lengths.code(doc)))),
              in.value()));
    }
    boolean matched = !fields.isEmpty();
    if (!matched) {
      return new Explanation(words.what() + ": not there", 0, false, null, List.of());
    }
    return new Explanation(
        words.what() + ": idf × f × (k1 + 1) / (k1 + f)",
        WordMatcher.score(words.idf(), frequency),
        true,
        Explanation.How.FORMULA,
        List.of(
            Explanation.of("idf: how rare it is", words.idf()),
            new Explanation("f: weighted frequency", frequency, true, Explanation.How.SUM, fields),
            Explanation.of("k1", WordMatcher.K1)));
  }

  /** A condition in short. */
  static String describe(Query query) {
    return switch (query) {
      case Query.Everything e -> "everything";
      case Query.Nothing n -> "nothing";
      case Query.AllOf all -> "all of %d conditions".formatted(all.clauses().size());
      case Query.AnyOf any -> "any of %d conditions".formatted(any.clauses().size());
      case Query.Some some -> "some of %d conditions".formatted(some.clauses().size());
      case Query.Not not -> "not: " + describe(not.clause());
      case Query.Holds holds -> describe(holds.query());
      case Query.Unless unless -> "not: " + describe(unless.clause());
      case Query.OneOf q ->
          q.values().size() == 1
              ? "%s = %s".formatted(q.field(), q.values().getFirst())
              : "%s in %s".formatted(q.field(), q.values());
      case Query.StartsWith q -> "%s begins with '%s'".formatted(q.field(), q.prefix());
      case Query.Range q ->
          "%s from %s to %s"
              .formatted(
                  q.field(), q.from() == null ? "…" : q.from(), q.to() == null ? "…" : q.to());
      case Query.Keys q -> "key in " + q.keys();
      case Query.Exists q -> q.field() + " has a value";
      case Query.Within q -> q.field() + " in " + q.area().getClass().getSimpleName();
      case Query.Group q -> "a row of " + q.field() + " with " + describe(q.condition());
      case Query.Term t -> "term '" + t.term() + "'";
      case Query.Word w -> "word '" + w.text() + "'";
      case Query.Phrase p -> "phrase '" + p.text() + "'";
      case Query.Near n -> "words " + n.words() + " near one another";
      case Query.Wildcard w -> "words like '" + w.pattern() + "'";
      case Query.Typo t -> "words similar to '" + t.text() + "'";
      case Query.Pattern p -> "words like '" + p.expression() + "'";
      case Query.Prefer p -> describe(p.query());
      case Query.Weighted w -> describe(w.query());
    };
  }
}
