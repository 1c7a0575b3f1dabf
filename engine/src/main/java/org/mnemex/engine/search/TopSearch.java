package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.BitSet;
import java.util.function.Supplier;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;

/**
 * Finds the best results of a segment without scoring all of them, and yet exactly the same.
 *
 * <h2>Windows</h2>
 *
 * <p>Documents are walked in windows that follow the blocks of the postings. From the impacts of
 * the blocks a bound of every clause's score within the window is known. A window whose bounds add
 * up to less than the worst of the best results so far is passed over unread (block-max pruning:
 * Ding and Suel, "Faster Top-k Document Retrieval Using Block-Max Indexes", SIGIR 2011; in
 * intervals: Chakrabarti, Chaudhuri and Ganti, "Interval-Based Pruning for Top-k Processing over
 * Compressed Lists", ICDE 2011).
 *
 * <h2>Any of several clauses</h2>
 *
 * <p>Within a window the clauses are put in the order of their bounds. The first ones, whose bounds
 * together are less than the threshold, cannot bring a document among the best alone: documents are
 * taken from the other clauses only, and the first ones are asked while a document can still make
 * it (MaxScore: Turtle and Flood, "Query Evaluation: Strategies and Optimizations", 1995).
 *
 * <p>A document of which only frequencies were read, not lengths, has a bound already; most are
 * passed over with that. Lengths stand elsewhere in memory and cost more than all the rest.
 *
 * <p>With many clauses the windows of the highest bounds are looked at first, with a matcher of
 * their own: what is found there lets more of the others be passed over.
 *
 * <h2>Exactness</h2>
 *
 * <p>Only what is strictly below the threshold is passed over, as equal scores are ordered by key.
 * Scores are always added up in the order of the clauses, and bounds are a little wider than any
 * rounding.
 */
final class TopSearch {
  /** More than all slack of bounds together, so that what is equal counts as below. */
  private static final double EQUAL = 1 + 1e-7;

  private static final int MIN_WINDOW = 1 << 11;

  /** At most so many windows are looked at before all others. */
  private static final int SCOUTED = 8;

  /** With fewer clauses the bounds of the best windows are too alike to tell them apart. */
  private static final int SCOUTED_CLAUSES = 4;

  private final DocBits accepted;
  private final SegmentTop top;
  private final Signals signals;
  private final double signalBound;
  private final Budget budget;
  private final long countUpTo;
  private final long most;

  /** The first document that may be a result, and the number after the last one. */
  private final int first;

  private final int end;
  private final boolean anyOfEqual;
  private long counted;
  private boolean pruned;

  /**
   * @param accepted documents that may be results
   * @param countUpTo nothing is passed over before so many results were counted
   * @param most after so many results it stops
   * @param anyOfEqual whether results that score the same as the worst of the best may be left out
   */
  TopSearch(
      DocBits accepted,
      SegmentTop top,
      Signals signals,
      Budget budget,
      long countUpTo,
      long most,
      boolean anyOfEqual) {
    this.most = most;
    this.anyOfEqual = anyOfEqual;
    this.accepted = accepted;
    this.top = top;
    this.signals = signals;
    this.signalBound = signals.bound();
    this.budget = budget;
    this.countUpTo = countUpTo;
    this.first = Math.max(0, accepted.next(0));
    this.end = accepted.end();
  }

  /** How many results were seen. */
  long counted() {
    return counted;
  }

  /** Whether some may not have been seen. */
  boolean pruned() {
    return pruned;
  }

  /**
   * Looks at everything that may be among the best.
   *
   * @param matchers gives a new matcher of the same documents each time
   */
  void run(Supplier<Matcher> matchers) {
    Matcher matcher = matchers.get();
    if (matcher instanceof Matcher.Any any && any.clauses().length > 1) {
      runAny(any, matchers);
    } else {
      runWindows(matcher);
    }
  }

  /** Relevance below this cannot be among the best; only once enough was counted. */
  private double threshold() {
    if (counted < countUpTo) {
      return Double.NEGATIVE_INFINITY;
    }
    double threshold = top.threshold() / signalBound;
    return anyOfEqual ? threshold * EQUAL : threshold;
  }

  private boolean isEnough() {
    pruned |= counted >= most;
    return counted >= most;
  }

  /**
   * Offers a document, unless what is required and the most that the rest can add is too little:
   * whether words stand close to one another, above all, takes longer to tell than all the others.
   */
  private void offer(Matcher.All all, int doc) {
    counted++;
    double required = all.requiredScore();
    double most = (required + all.optionalBound()) * Matcher.SLACK;
    if (most * signalBound < top.threshold()) {
      return;
    }
    double factor = factor(doc);
    if (most * factor >= top.threshold()) {
      top.offer(doc, all.withOptional(required) * factor);
    }
  }

  private void offer(int doc, double relevance) {
    counted++;
    if (relevance * signalBound >= top.threshold()) {
      top.offer(doc, relevance * factor(doc));
    }
  }

  private double factor(int doc) {
    return signals.isEmpty() ? 1 : signals.factor(doc);
  }

  private int windowEnd(Matcher matcher, int from, int least) {
    long to = Math.max(matcher.blockEnd(from), from + (long) least - 1);
    return (int) Math.min(to, end - 1L);
  }

  private void runWindows(Matcher matcher) {
    Matcher.All all = matcher instanceof Matcher.All some && some.hasOptional() ? some : null;
    int least = matcher.hasCheapBounds() ? 1 : MIN_WINDOW;
    int doc = matcher.advance(first);
    while (doc < end) {
      int to = windowEnd(matcher, doc, least);
      if (!budget.mayContinue(to - doc + 1)) {
        return;
      }
      double threshold = threshold();
      // Once a window: ranges of bounds must not go back.
      double bound =
          all == null && threshold <= 0 ? Double.POSITIVE_INFINITY : matcher.bound(doc, to);
      if (threshold > 0 && bound < threshold) {
        pruned = true;
        doc = to + 1 >= end ? Matcher.END : matcher.advance(to + 1);
        continue;
      }
      while (doc <= to) {
        if (isEnough()) {
          return;
        }
        if (accepted.get(doc)) {
          if (all == null) {
            offer(doc, matcher.score());
          } else {
            offer(all, doc);
          }
        }
        int next = accepted.next(doc + 1);
        doc = next < 0 ? Matcher.END : matcher.advance(next);
      }
    }
  }

  private void runAny(Matcher.Any any, Supplier<Matcher> again) {
    Windows windows = new Windows(any, first, end);
    int scouted =
        any.clauses().length < SCOUTED_CLAUSES ? 0 : Math.min(SCOUTED, windows.count() / 4);
    if (scouted > 0 && again.get() instanceof Matcher.Any scout) {
      for (int w : windows.best(scouted)) {
        if (!budget.mayContinue(windows.length(w))) {
          return;
        }
        window(scout.clauses(), windows, w);
        windows.done(w);
      }
    }
    for (int w = 0; w < windows.count(); w++) {
      if (windows.isDone(w)) {
        continue;
      }
      if (isEnough()) {
        return;
      }
      if (!budget.mayContinue(windows.length(w))) {
        return;
      }
      if (windows.bound(w) < threshold()) {
        pruned = true;
      } else {
        window(any.clauses(), windows, w);
      }
    }
  }

  /** The windows of a segment in order, with what each clause can score in them. */
  private static final class Windows {
    private final int end;
    private final int clauses;
    private int count;
    private int[] starts = new int[64];
    private double[] bounds;
    private double[] sums = new double[64];
    private final BitSet done = new BitSet();

    Windows(Matcher.Any any, int first, int end) {
      this.end = end;
      Matcher[] matchers = any.clauses();
      this.clauses = matchers.length;
      this.bounds = new double[64 * clauses];
      for (int from = first; from < end; count++) {
        if (count == starts.length) {
          starts = Arrays.copyOf(starts, 2 * count);
          sums = Arrays.copyOf(sums, 2 * count);
          bounds = Arrays.copyOf(bounds, 2 * count * clauses);
        }
        int to = (int) Math.min(Math.max(any.blockEnd(from), from + MIN_WINDOW - 1L), end - 1L);
        starts[count] = from;
        for (int i = 0; i < clauses; i++) {
          double bound = matchers[i].bound(from, to);
          bounds[count * clauses + i] = bound;
          sums[count] += bound;
        }
        sums[count] *= Matcher.SLACK;
        from = to + 1;
      }
    }

    int count() {
      return count;
    }

    int from(int window) {
      return starts[window];
    }

    int to(int window) {
      return (window + 1 < count ? starts[window + 1] : end) - 1;
    }

    int length(int window) {
      return to(window) - from(window) + 1;
    }

    /** What a document of the window can score at most: 0 where clauses only filter. */
    double bound(int window) {
      return sums[window];
    }

    double bound(int window, int clause) {
      return bounds[window * clauses + clause];
    }

    void done(int window) {
      done.set(window);
    }

    boolean isDone(int window) {
      return done.get(window);
    }

    /** The windows of the highest bounds, in order. */
    int[] best(int most) {
      int[] best = new int[most];
      int found = 0;
      for (int w = 0; w < count; w++) {
        if (found == most && sums[w] <= sums[best[most - 1]]) {
          continue;
        }
        int at = found < most ? found++ : most - 1;
        while (at > 0 && sums[best[at - 1]] < sums[w]) {
          best[at] = best[at - 1];
          at--;
        }
        best[at] = w;
      }
      int[] inOrder = Arrays.copyOf(best, found);
      Arrays.sort(inOrder);
      return inOrder;
    }
  }

  private void window(Matcher[] clauses, Windows windows, int window) {
    int from = windows.from(window);
    int to = windows.to(window);
    int n = clauses.length;
    double[] bounds = new double[n];
    for (int i = 0; i < n; i++) {
      bounds[i] = clauses[i].doc() > to ? 0 : windows.bound(window, i);
    }
    int[] byBound = order(bounds);
    // below[i]: what the clauses 0 to i in this order can add together.
    double[] below = new double[n];
    double sum = 0;
    for (int i = 0; i < n; i++) {
      sum += bounds[byBound[i]];
      below[i] = sum * Matcher.SLACK;
    }
    double threshold = threshold();
    int essential = essential(below, threshold);
    if (essential == n) {
      pruned = true;
      return;
    }
    // What stands in the first clauses only is passed over from here on.
    pruned |= essential > 0;
    double[] scores = new double[n];
    int doc = next(clauses, byBound, essential, from);
    while (doc <= to && !isEnough()) {
      int wanted = accepted.next(doc);
      if (wanted != doc) {
        if (wanted < 0 || wanted > to) {
          return;
        }
        doc = next(clauses, byBound, essential, wanted);
        continue;
      }
      double limit = essential == 0 ? 0 : below[essential - 1];
      for (int i = essential; i < n && limit < threshold; i++) {
        Matcher clause = clauses[byBound[i]];
        limit += clause.doc() == doc ? clause.limit() : 0;
      }
      if (limit * Matcher.SLACK < threshold) {
        counted++;
        doc = next(clauses, byBound, essential, doc + 1);
        continue;
      }
      double partial = 0;
      Arrays.fill(scores, 0);
      for (int i = essential; i < n; i++) {
        Matcher clause = clauses[byBound[i]];
        if (clause.doc() == doc) {
          scores[byBound[i]] = clause.score();
          partial += scores[byBound[i]];
        }
      }
      boolean possible = true;
      for (int i = essential - 1; i >= 0 && possible; i--) {
        possible = (partial + below[i]) * Matcher.SLACK >= threshold;
        if (possible) {
          Matcher clause = clauses[byBound[i]];
          if (clause.advance(doc) == doc) {
            scores[byBound[i]] = clause.score();
            partial += scores[byBound[i]];
          }
        }
      }
      if (possible) {
        double total = 0;
        for (double score : scores) {
          total += score;
        }
        offer(doc, total);
        double now = threshold();
        if (now > threshold) {
          threshold = now;
          essential = Math.max(essential, essential(below, threshold));
          pruned |= essential > 0;
          if (essential == n) {
            pruned = true;
            return;
          }
        }
      } else {
        counted++;
      }
      doc = next(clauses, byBound, essential, doc + 1);
    }
  }

  private static int[] order(double[] bounds) {
    int[] order = new int[bounds.length];
    for (int i = 0; i < order.length; i++) {
      int at = i;
      while (at > 0 && bounds[order[at - 1]] > bounds[i]) {
        order[at] = order[at - 1];
        at--;
      }
      order[at] = i;
    }
    return order;
  }

  /** How many of the weakest clauses cannot reach the threshold together. */
  private static int essential(double[] below, double threshold) {
    int count = 0;
    while (count < below.length && below[count] < threshold) {
      count++;
    }
    return count;
  }

  private static int next(Matcher[] clauses, int[] byBound, int essential, int target) {
    int least = Matcher.END;
    for (int i = essential; i < byBound.length; i++) {
      least = Math.min(least, clauses[byBound[i]].advance(target));
    }
    return least;
  }
}
