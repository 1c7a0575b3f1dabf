package org.mnemex.engine.search;

import java.util.function.LongSupplier;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.SearchLimits;
import org.mnemex.engine.SearchTimeoutException;

/** What a running search has used of what it may; belongs to one search. */
final class Budget {
  /** Documents between two looks at the clock. */
  static final int STEP = 4096;

  private final SearchLimits limits;
  private final LongSupplier nanoTime;
  private final long deadline;
  private final long documents;
  private long seen;
  private long bytes;
  private boolean over;

  /**
   * @param documents how many the edition has, for messages
   */
  Budget(SearchLimits limits, LongSupplier nanoTime, long documents) {
    this.limits = limits;
    this.nanoTime = nanoTime;
    this.deadline = nanoTime.getAsLong() + limits.millis() * 1_000_000;
    this.documents = documents;
  }

  /**
   * Notes that some documents were looked at.
   *
   * @return whether to go on; false only if a partial answer was asked for
   * @throws SearchTimeoutException if the time is over
   */
  boolean goOn(int looked) {
    seen += looked;
    if (over || nanoTime.getAsLong() - deadline > 0) {
      over = true;
      if (!limits.partial()) {
        throw new SearchTimeoutException(limits.millis(), seen, documents);
      }
    }
    return !over;
  }

  /** Whether the answer lacks something. */
  boolean isOver() {
    return over;
  }

  /**
   * Notes memory that is about to be taken.
   *
   * @throws QueryRefusedException if it is more than the search may have
   */
  void take(long more) {
    bytes += more;
    if (bytes > limits.bytes()) {
      throw new QueryRefusedException(
          "the search needs more than its %d bytes of memory; ask for fewer facets or clauses"
              .formatted(limits.bytes()));
    }
  }

  /**
   * Notes how many terms something stands for in a segment.
   *
   * @throws QueryRefusedException if they are too many
   */
  void terms(int count, String what) {
    if (count > limits.terms()) {
      throw new QueryRefusedException(
          "%s stands for more than %d terms; give more of its beginning"
              .formatted(what, limits.terms()));
    }
  }
}
