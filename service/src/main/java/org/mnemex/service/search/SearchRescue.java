package org.mnemex.service.search;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.PlainWord;
import org.mnemex.engine.query.QueryText;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.suggest.SuggestRequest;

/**
 * Helps a search that found little, as far as its time allows: by other words that may have been
 * meant, or by fewer words.
 */
final class SearchRescue {
  /** With so many results, nothing is corrected. */
  private static final int FEW = 3;

  /** Of longer queries only these many words can be left out: each costs a search. */
  private static final int MAX_LEFT_OUT = 12;

  private final Endpoints.Answering answering;
  private final SearchCall call;
  private final long start;

  /**
   * Help for a call.
   *
   * @param start when the call began, by {@link System#nanoTime}
   */
  SearchRescue(Endpoints.Answering answering, SearchCall call, long start) {
    this.answering = answering;
    this.call = call;
    this.start = start;
  }

  /**
   * The results of fewer words.
   *
   * @param leftOut the words that were left out, in the order of the query
   */
  record Relaxed(SearchResult result, List<String> leftOut) {}

  /** A word of the query and how many records have it. */
  private record Telling(PlainWord word, long records) {}

  /** What the search may still cost. */
  private SearchLimits left() {
    SearchLimits limits = SearchRequests.limits(call.endpoint());
    long left = limits.millis() - (System.nanoTime() - start) / 1_000_000;
    return new SearchLimits(Math.max(0, left), limits.bytes(), limits.terms(), false);
  }

  private SearchResult search(SearchRequest request) {
    return answering.read(view -> view.search(request.within(left())));
  }

  /** The number of records that some words find under the filter and the choices of the call. */
  private long count(String words) {
    SearchCall other = call.with(words);
    List<FacetRequest> chosen = SearchRequests.chosen(answering.endpoint(), call);
    return search(SearchRequests.of(answering, other).onlyFacets(chosen)).total();
  }

  /**
   * A correction that finds more; null if there is none or the time is over.
   *
   * @param found how many results there are
   */
  @Nullable String meant(long found) {
    SuggestRequest words =
        new SuggestRequest(
            call.words(),
            SearchRequests.readable(answering.endpoint()),
            1,
            answering.endpoint().forced(),
            List.of(),
            left());
    try {
      String meant = answering.read(view -> view.correct(words, FEW));
      return meant != null && count(meant) > found ? meant : null;
    } catch (SearchTimeoutException | QueryRefusedException e) {
      // The answer is complete without it.
      return null;
    }
  }

  /**
   * The results without the least telling words: first without those that no record has, then
   * without the most frequent one, and so on until there are enough. Phrases and words that are
   * excluded stay.
   *
   * @param found how many results there are
   * @param least how many are enough
   * @return null if fewer words do not find more, or the time is over
   */
  @Nullable Relaxed relaxed(long found, int least) {
    List<PlainWord> words = QueryText.plainWords(call.words());
    try {
      List<Telling> telling = new ArrayList<>();
      for (PlainWord word : words.subList(0, Math.min(words.size(), MAX_LEFT_OUT))) {
        telling.add(new Telling(word, count(word.text())));
      }
      telling.sort(
          Comparator.comparing((Telling one) -> one.records > 0)
              .thenComparing(Comparator.comparingLong(Telling::records).reversed()));
      Set<PlainWord> leftOut = new HashSet<>();
      String rest = call.words();
      long total = found;
      for (Telling one : telling) {
        String fewer = without(rest, one.word);
        if (total >= least || fewer.isBlank()) {
          break;
        }
        rest = fewer;
        leftOut.add(one.word);
        total = count(rest);
      }
      return total <= found
          ? null
          : new Relaxed(
              search(SearchRequests.of(answering, call.with(rest))),
              words.stream().filter(leftOut::contains).map(PlainWord::text).toList());
    } catch (SearchTimeoutException | QueryRefusedException e) {
      return null;
    }
  }

  /** Other words stay where they are, so that the last one stays the last. */
  private static String without(String text, PlainWord word) {
    return text.substring(0, word.start())
        + " ".repeat(word.end() - word.start())
        + text.substring(word.end());
  }
}
