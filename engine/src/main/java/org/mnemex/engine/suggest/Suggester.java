package org.mnemex.engine.suggest;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.search.Completions;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.search.Marks;
import org.mnemex.engine.search.Searcher;
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

  private Suggester() {}

  /**
   * Completions, the best first.
   *
   * @throws QueryRefusedException if a field does not have the use {@code suggest}
   */
  public static List<Suggestion> suggest(
      Snapshot snapshot, SuggestRequest request, @Nullable FilterCache cache) {
    Budget budget = new Budget(request.limits(), System::nanoTime, snapshot.documents());
    Map<String, Ranked> best = new LinkedHashMap<>();
    for (String name : request.fields()) {
      Field field = snapshot.schema().field(name);
      if (field.type() != FieldType.TEXT
          || !field.uses().contains(Use.SUGGEST)
          || !field.hasTerms()) {
        throw new QueryRefusedException(
            "field '" + name + "' cannot complete words; give it the uses 'search' and 'suggest'");
      }
      suggest(snapshot, request, cache, field, budget, best);
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
      Snapshot snapshot,
      SuggestRequest request,
      @Nullable FilterCache cache,
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
    // Terms without typing errors come first, so once there is enough the rest is not looked at.
    for (Completions.Completion term :
        Completions.of(snapshot, field, beginning, Edits.of(beginning), open, MAX_TERMS, budget)) {
      if (wanted <= 0) {
        return;
      }
      Query query = Query.and(before, new Query.Term(field.name(), term.term()));
      wanted -=
          collect(snapshot, request, cache, field, budget, query, typed, term.strength(), best);
    }
  }

  private static int collect(
      Snapshot snapshot,
      SuggestRequest request,
      @Nullable FilterCache cache,
      Field field,
      Budget budget,
      Query query,
      List<AnalysedToken> typed,
      double strength,
      Map<String, Ranked> best) {
    SearchRequest search =
        new SearchRequest(
                query,
                request.filter(),
                null,
                0,
                request.size(),
                List.of(),
                Set.of(field.name()),
                List.of())
            .rankedBy(request.signals())
            .countingUpTo(0)
            .within(budget.left());
    Highlighter highlighter = Marks.of(query, field, snapshot.schema());
    List<SearchResult.Hit> hits = Searcher.search(snapshot, search, cache).hits();
    for (SearchResult.Hit hit : hits) {
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        List<String> marked =
            highlighter.highlight(text, new HighlightRequest(field.name(), 0, 0), budget);
        if (!marked.isEmpty()) {
          Suggestion suggestion = new Suggestion(text, marked.getFirst(), field.name(), hit.key());
          Ranked ranked = new Ranked(suggestion, rank(field, text, typed), strength * hit.score());
          best.merge(
              Folding.foldCase(text),
              ranked,
              (a, b) -> a.rank < b.rank || (a.rank == b.rank && a.score >= b.score) ? a : b);
        }
      }
    }
    return hits.size();
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
    return 2;
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
