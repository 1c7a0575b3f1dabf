package org.mnemex.engine.suggest;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.search.Completions;
import org.mnemex.engine.search.Marks;
import org.mnemex.engine.search.Searched;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Folding;

/**
 * Completes what is being typed with values of fields. Every word but the last must be there, the
 * last may go on; words may have typing errors. A value that begins with what was typed comes
 * before one that has it further on, and that before one that has it with errors only.
 */
public final class Suggester {
  /** The best terms that a word being typed may become; the rest are too rare to be meant. */
  private static final int MAX_TERMS = 8;

  /** Documents looked at for one suggestion wanted, as several may have the same value. */
  private static final int DOCUMENTS_EACH = 2;

  private static final int MAX_WORDS = 16;

  /** So many documents of a term are ranked: somebody types, and waits for an answer. */
  private static final int RANKED = 500;

  /** The rank of a value that has what was typed with typing errors only. */
  private static final int WITH_ERRORS = 2;

  private Suggester() {}

  /**
   * Completions, the best first.
   *
   * @throws QueryRefusedException if a field does not have the use {@code suggest}
   */
  public static List<Suggestion> suggest(Searched searched, SuggestRequest request) {
    Budget budget = new Budget(request.limits(), System::nanoTime, searched.documents());
    Map<String, Ranked> best = new LinkedHashMap<>();
    for (String name : request.fields()) {
      Field field = searched.schema().field(name);
      if (field.type() != FieldType.TEXT
          || !field.uses().contains(Use.SUGGEST)
          || !field.hasTerms()) {
        throw new QueryRefusedException(
            "field '" + name + "' cannot complete words; give it the uses 'search' and 'suggest'");
      }
      suggest(searched, request, field, budget, best);
    }
    return best.values().stream()
        .sorted(
            Comparator.comparingInt(Ranked::rank)
                .thenComparing(Comparator.comparingDouble(Ranked::score).reversed())
                .thenComparing(ranked -> ranked.suggestion().text()))
        .limit(request.size())
        .map(Ranked::suggestion)
        .toList();
  }

  private record Ranked(Suggestion suggestion, int rank, double score) {}

  private static void suggest(
      Searched searched,
      SuggestRequest request,
      Field field,
      Budget budget,
      Map<String, Ranked> best) {
    List<AnalysedToken> typed =
        field.queryAnalyser() == null ? List.of() : field.queryAnalyser().tokens(request.text());
    if (typed.isEmpty()) {
      return;
    }
    int last = Math.min(typed.size(), MAX_WORDS) - 1;
    Query before = wordsBefore(field, request.text(), typed, last);
    String beginning = typed.get(last).text();
    boolean open = !Character.isWhitespace(request.text().charAt(request.text().length() - 1));
    int wanted = DOCUMENTS_EACH * request.size();
    List<Completions.Completion> terms =
        searched.completions(field, beginning, Edits.of(beginning), open, MAX_TERMS, budget);
    // Terms without typing errors come first, so once there is enough the rest is not looked at.
    for (Together together : together(terms, field, request.order() != null)) {
      if (wanted <= 0) {
        return;
      }
      Together after = new Together(Query.and(before, together.query), together.strength);
      wanted -= collect(searched, request, field, budget, after, typed, best);
    }
  }

  /** Terms that are asked for by one search. */
  private record Together(Query query, double strength) {}

  /** Each term alone, or those of one strength together, so that their documents have one order. */
  private static List<Together> together(
      List<Completions.Completion> terms, Field field, boolean ordered) {
    if (!ordered) {
      return terms.stream()
          .map(term -> new Together(new Query.Term(field.name(), term.term()), term.strength()))
          .toList();
    }
    Map<Double, List<Query>> byStrength = new LinkedHashMap<>();
    for (Completions.Completion term : terms) {
      byStrength
          .computeIfAbsent(term.strength(), strength -> new ArrayList<>())
          .add(new Query.Term(field.name(), term.term()));
    }
    return byStrength.entrySet().stream()
        .map(one -> new Together(new Query.AnyOf(one.getValue()), one.getKey()))
        .toList();
  }

  private static int collect(
      Searched searched,
      SuggestRequest request,
      Field field,
      Budget budget,
      Together asked,
      List<AnalysedToken> typed,
      Map<String, Ranked> best) {
    Highlighter highlighter = Marks.of(asked.query, field, searched.schema());
    List<SearchResult.Hit> hits = hits(searched, request, field, budget, asked.query);
    for (int place = 0; place < hits.size(); place++) {
      SearchResult.Hit hit = hits.get(place);
      double score = request.order() == null ? hit.score() : 1.0 / (1 + place);
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        List<String> marked =
            highlighter.highlight(text, new HighlightRequest(field.name(), 0, 0), budget);
        if (!marked.isEmpty()) {
          int rank = rank(field, text, typed);
          Suggestion suggestion =
              new Suggestion(text, marked.getFirst(), field.name(), hit.key(), rank == WITH_ERRORS);
          // In an order of its own, a value that begins so does not come first.
          rank = request.order() == null || rank == WITH_ERRORS ? rank : 0;
          Ranked ranked = new Ranked(suggestion, rank, asked.strength * score);
          best.merge(
              Folding.foldCase(text),
              ranked,
              (a, b) -> a.rank < b.rank || (a.rank == b.rank && a.score >= b.score) ? a : b);
        }
      }
    }
    return hits.size();
  }

  /** The best of some documents, or the first of all in an order, which need no scores. */
  private static List<SearchResult.Hit> hits(
      Searched searched, SuggestRequest request, Field field, Budget budget, Query query) {
    String order = request.order();
    SearchRequest search =
        new SearchRequest(
                order == null ? query : new Query.Holds(query),
                request.filter(),
                null,
                0,
                order == null ? request.size() : DOCUMENTS_EACH * request.size(),
                List.of(),
                Set.of(field.name()),
                List.of())
            .countingUpTo(0)
            .within(budget.left());
    return order == null
        ? searched.some(search.rankedBy(request.signals()), RANKED).hits()
        : searched.search(search.sortedBy(List.of(new SearchRequest.Sort(order, true)))).hits();
  }

  private static Query wordsBefore(Field field, String text, List<AnalysedToken> typed, int last) {
    Map<String, Double> fields = Map.of(field.name(), 1.0);
    List<Query> words = new ArrayList<>();
    for (int i = 0; i < last; i++) {
      // As it was typed: it is analysed again.
      String word = text.substring(typed.get(i).start(), typed.get(i).end());
      words.add(Edits.word(fields, word, false, MAX_TERMS));
    }
    return words.isEmpty() ? new Query.Everything() : new Query.AllOf(words);
  }

  /** 0: begins with what was typed; 1: has it word by word; 2: with typing errors. */
  private static int rank(Field field, String text, List<AnalysedToken> typed) {
    List<AnalysedToken> tokens =
        field.queryAnalyser() == null ? List.of() : field.queryAnalyser().tokens(text);
    if (beginsAt(tokens, 0, typed)) {
      return 0;
    }
    for (int at = 1; at + typed.size() <= tokens.size(); at++) {
      if (beginsAt(tokens, at, typed)) {
        return 1;
      }
    }
    return WITH_ERRORS;
  }

  private static boolean beginsAt(List<AnalysedToken> tokens, int at, List<AnalysedToken> typed) {
    if (at + typed.size() > tokens.size()) {
      return false;
    }
    for (int i = 0; i < typed.size(); i++) {
      String have = tokens.get(at + i).text();
      String want = typed.get(i).text();
      if (i + 1 < typed.size() ? !have.equals(want) : !have.startsWith(want)) {
        return false;
      }
    }
    return true;
  }
}
