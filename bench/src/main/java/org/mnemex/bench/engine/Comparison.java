package org.mnemex.bench.engine;

import java.io.PrintStream;
import java.util.Random;
import java.util.function.Function;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;

/**
 * Asks two views of the same documents the same in turn, and compares every answer and the times.
 *
 * @param queries how many in a round
 * @param name what the first one is called in the output
 * @param other what the second one is called
 */
record Comparison(
    int queries, String name, SearchView first, String other, SearchView second, PrintStream out) {
  private static final int ROUNDS = 3;

  /**
   * Prints the times of the last of some rounds.
   *
   * @param what is asked
   * @param requests a request for each seed
   * @throws IllegalStateException if answers differ
   */
  void measure(String what, Function<Random, SearchRequest> requests) {
    double[] ofFirst = new double[queries];
    double[] ofSecond = new double[queries];
    long results = 0;
    for (int round = 0; round < ROUNDS; round++) {
      results = 0;
      for (int i = 0; i < queries; i++) {
        SearchRequest request = requests.apply(new Random(i));
        SearchResult[] found = new SearchResult[2];
        ofFirst[i] = Times.millis(() -> found[0] = first.search(request));
        ofSecond[i] = Times.millis(() -> found[1] = second.search(request));
        if (!found[0].hits().equals(found[1].hits())
            || !found[0].facets().equals(found[1].facets())) {
          throw new IllegalStateException("other results for " + request);
        }
        results += found[0].total();
      }
    }
    out.printf(
        "%-34s %s %s   %s %s   p50 ratio %.2f, %,d results on average%n",
        what,
        name,
        Times.percentiles(ofFirst),
        other,
        Times.percentiles(ofSecond),
        Times.median(ofSecond) / Times.median(ofFirst),
        results / queries);
  }
}
