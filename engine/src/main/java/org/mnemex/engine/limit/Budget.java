package org.mnemex.engine.limit;

import java.util.function.LongSupplier;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;

/**
 * What a running search has used of what it may; belongs to one search and its thread. Whatever
 * walks through something that documents or callers can lengthen asks it now and then whether to go
 * on.
 */
public final class Budget {
  /** Documents between two looks at the clock. */
  public static final int STEP = 4096;

  private final SearchLimits limits;
  private final LongSupplier nanoTime;
  private final long deadline;
  private final long documents;
  private long seen;
  private long bytes;
  private long steps;
  private boolean over;

  /**
   * @param documents how many the edition has, for messages
   */
  public Budget(SearchLimits limits, LongSupplier nanoTime, long documents) {
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
  public boolean goOn(int looked) {
    seen += looked;
    if (over || nanoTime.getAsLong() - deadline > 0) {
      over = true;
      if (!limits.partial()) {
        throw tooLate();
      }
    }
    return !over;
  }

  /** That time is over, for what cannot be answered in part. */
  public SearchTimeoutException tooLate() {
    return new SearchTimeoutException(limits.millis(), seen, documents);
  }

  /** A budget for something without limits. */
  public static Budget none() {
    return new Budget(SearchLimits.NONE, System::nanoTime, 0);
  }

  /** As {@link #goOn(int)}, but looks at the clock only at every 1,024th of many small steps. */
  public boolean step() {
    return (++steps & 1023) != 0 ? !over : goOn(0);
  }

  /** The same limits for a search within this one, with what is left of the time. */
  public SearchLimits left() {
    long millis = Math.max(0, (deadline - nanoTime.getAsLong()) / 1_000_000);
    return new SearchLimits(millis, limits.bytes(), limits.terms(), limits.partial());
  }

  /** Whether the answer lacks something. */
  public boolean isOver() {
    return over;
  }

  /**
   * Notes memory that is about to be taken.
   *
   * @throws QueryRefusedException if it is more than the search may have
   */
  public void take(long more) {
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
  public void terms(int count, String what) {
    if (count > limits.terms()) {
      throw new QueryRefusedException(
          "%s stands for more than %d terms; give more of its beginning"
              .formatted(what, limits.terms()));
    }
  }
}
