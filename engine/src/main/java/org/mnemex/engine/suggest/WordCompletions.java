package org.mnemex.engine.suggest;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.search.Completions;
import org.mnemex.engine.search.Searched;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Folding;

/**
 * Completes the last word of what is typed with words of texts: of documents that match the filter
 * and have the words before it, as they are written there.
 */
public final class WordCompletions {
  private static final int MAX_TERMS = 8;
  private static final int MAX_WORDS = 16;
  private static final int EXAMPLES = 2;
  private static final HighlightRequest MARKS = new HighlightRequest("", 0, 0);

  private final Searched searched;
  private final SuggestRequest request;
  private final Budget budget;
  private final Map<String, Ranked> best = new HashMap<>();

  private WordCompletions(Searched searched, SuggestRequest request) {
    this.searched = searched;
    this.request = request;
    this.budget = new Budget(request.limits(), System::nanoTime, searched.documents());
  }

  /**
   * A completion.
   *
   * @param text what was typed, with its last word completed
   * @param marked the same as escaped HTML, with the typed part marked
   * @param withErrors whether what was typed has typing errors
   */
  public record Completed(String text, String marked, boolean withErrors) {}

  private record Ranked(Completed completed, double strength, long documents) {}

  /**
   * Completions, the best first: without typing errors, then by the number of documents.
   *
   * @param request with stored text fields that can be searched
   */
  public static List<Completed> of(Searched searched, SuggestRequest request) {
    String text = request.text();
    if (text.isBlank() || Character.isWhitespace(text.charAt(text.length() - 1))) {
      return List.of();
    }
    WordCompletions completions = new WordCompletions(searched, request);
    List<Candidate> candidates = new ArrayList<>();
    request
        .fields()
        .forEach(name -> candidates.addAll(completions.candidates(searched.schema().field(name))));
    candidates.sort(
        Comparator.comparingDouble((Candidate one) -> one.term.strength())
            .thenComparingLong(one -> one.term.documents())
            .reversed());
    // Each costs a search, so those that would come last are not looked at.
    for (Candidate candidate : candidates) {
      if (completions.best.size() >= request.size()) {
        break;
      }
      completions.complete(candidate);
    }
    return completions.best.values().stream()
        .sorted(
            Comparator.comparingDouble(Ranked::strength)
                .thenComparingLong(Ranked::documents)
                .reversed()
                .thenComparing(ranked -> ranked.completed.text))
        .map(Ranked::completed)
        .toList();
  }

  /** A term of a field that the last word, which begins at a place of the text, may become. */
  private record Candidate(Field field, int start, Completions.Completion term) {}

  private List<Candidate> candidates(Field field) {
    if (field.queryAnalyser() == null || field.analyser() == null) {
      return List.of();
    }
    List<AnalysedToken> typed = field.queryAnalyser().tokens(request.text());
    if (typed.isEmpty() || typed.getLast().end() != request.text().length()) {
      return List.of();
    }
    AnalysedToken last = typed.getLast();
    return searched
        .completions(field, last.text(), Edits.of(last.text()), true, MAX_TERMS, budget)
        .stream()
        .map(term -> new Candidate(field, last.start(), term))
        .toList();
  }

  private void complete(Candidate one) {
    String term = one.term.term();
    Query query = Query.and(before(one.start), new Query.Term(one.field.name(), term));
    String written = written(one.field, query, term);
    if (written != null) {
      add(one.start, written, one.term);
    }
  }

  /** The words before the last one, each in any of the fields. */
  private Query before(int end) {
    Map<String, Double> fields = new HashMap<>();
    request.fields().forEach(name -> fields.put(name, 1.0));
    List<Query> words =
        Stream.of(request.text().substring(0, end).split("\\s+"))
            .filter(word -> !word.isEmpty())
            .limit(MAX_WORDS)
            .map(word -> Edits.word(fields, word, false, MAX_TERMS))
            .toList();
    return words.isEmpty() ? new Query.Everything() : new Query.AllOf(words);
  }

  /** A word as documents write it that a query finds; null if it finds none. */
  private @Nullable String written(Field field, Query query, String term) {
    SearchRequest search =
        new SearchRequest(
                query,
                request.filter(),
                null,
                0,
                EXAMPLES,
                List.of(),
                Set.of(field.name()),
                List.of())
            .countingUpTo(0)
            .within(budget.left());
    List<String> forms = new ArrayList<>();
    for (SearchResult.Hit hit : searched.any(search, EXAMPLES).hits()) {
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        for (AnalysedToken token : field.analyser().tokens(text)) {
          if (token.text().equals(term)) {
            forms.add(text.substring(token.start(), token.end()).toLowerCase(Locale.ROOT));
          }
        }
      }
    }
    // The shortest: rather the word itself than one of its forms.
    return forms.stream()
        .min(Comparator.comparingInt(String::length).thenComparing(Comparator.naturalOrder()))
        .orElse(null);
  }

  private void add(int start, String written, Completions.Completion term) {
    String typed = request.text().substring(start);
    if (Folding.foldCase(written).equals(Folding.foldCase(typed))) {
      return;
    }
    boolean begins = Folding.foldCase(written).startsWith(Folding.foldCase(typed));
    String text = request.text().substring(0, start) + written;
    int end = begins ? Math.min(request.text().length(), text.length()) : text.length();
    Completed completed = new Completed(text, Highlighter.part(text, 0, end, MARKS), !begins);
    best.merge(
        Folding.foldCase(written),
        new Ranked(completed, begins ? 1 : term.strength(), term.documents()),
        (a, b) -> new Ranked(a.completed, a.strength, Math.max(a.documents, b.documents)));
  }
}
