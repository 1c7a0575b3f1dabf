package org.mnemex.engine.limit;

import java.util.function.LongSupplier;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.SearchTimeoutException;

/**
 * Tracks a search's use of its limits; belongs to one search and its thread. Every loop whose
 * length documents or callers control asks it regularly whether to go on. A part of a search that
 * another thread takes on has a budget of its own: {@link #another()}, then {@link #add}.
 */
public final class Budget {
  /** Documents between two checks of the clock. */
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
    this(limits, nanoTime, nanoTime.getAsLong() + limits.millis() * 1_000_000, documents);
  }

  private Budget(SearchLimits limits, LongSupplier nanoTime, long deadline, long documents) {
    this.limits = limits;
    this.nanoTime = nanoTime;
    this.deadline = deadline;
    this.documents = documents;
  }

  /** A budget with the same limits and the same end, of which nothing has been used. */
  public Budget another() {
    return new Budget(limits, nanoTime, deadline, documents);
  }

  /**
   * Adds what another part of the same search has used.
   *
   * @throws QueryRefusedException if all of it exceeds the limit
   */
  public void add(Budget part) {
    seen += part.seen;
    over |= part.over;
    take(part.bytes);
  }

  /**
   * Notes that some documents were looked at.
   *
   * @return whether to go on; false only if a partial answer was asked for
   * @throws SearchTimeoutException if the time is over
   */
  public boolean mayContinue(int looked) {
    seen += looked;
    if (over || nanoTime.getAsLong() - deadline > 0) {
      over = true;
      if (!limits.partial()) {
        throw tooLate();
      }
    }
    return !over;
  }

  /** A timeout for answers that cannot be partial. */
  public SearchTimeoutException tooLate() {
    return new SearchTimeoutException(limits.millis(), seen, documents);
  }

  /** A budget for something without limits. */
  public static Budget none() {
    return new Budget(SearchLimits.NONE, System::nanoTime, 0);
  }

  /** Like {@link #mayContinue(int)}, but checks the clock only every 1,024 small steps. */
  public boolean step() {
    return (++steps & 1023) != 0 ? !over : mayContinue(0);
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
   * Notes memory that is about to be allocated.
   *
   * @throws QueryRefusedException if it exceeds the limit
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
   * Notes into how many terms something expands in a segment.
   *
   * @throws QueryRefusedException if they are too many
   */
  public void terms(int count, String what) {
    if (count > limits.terms()) {
      throw new QueryRefusedException(
          "%s matches more than %d terms; give more of its beginning"
              .formatted(what, limits.terms()));
    }
  }
}
