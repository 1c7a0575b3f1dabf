package org.mnemex.service.insight;

import java.util.Objects;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * Counts of a search node on their way to the builder. A batch is offered until it is known to have
 * arrived, under the same number, so that it counts once however often it is sent.
 */
public final class CountsToPass {
  /** So many rows of each kind are well below the limit of a body, also with long words. */
  private static final int MAX_ROWS = 500;

  private final String run = UUID.randomUUID().toString();
  private final WaitingCounts waiting = new WaitingCounts();
  private @Nullable Batch sent;
  private long last;

  /**
   * What is passed on at a time.
   *
   * @param run tells the batches of this process from those of others
   * @param number counts batches, from 1
   * @param counts what was counted
   */
  public record Batch(String run, long number, CountedSearches counts) {
    public Batch {
      Objects.requireNonNull(run, "run");
      Objects.requireNonNull(counts, "counts");
    }
  }

  void add(CountedSearches counts) {
    waiting.addAll(counts);
  }

  /** The batch that has not arrived yet, or the next one; null if nothing waits. */
  public synchronized @Nullable Batch next() {
    if (sent == null) {
      CountedSearches counts = waiting.take(MAX_ROWS);
      if (!counts.isEmpty()) {
        sent = new Batch(run, ++last, counts);
      }
    }
    return sent;
  }

  /** Notes that a batch has arrived. */
  public synchronized void arrived(Batch batch) {
    if (batch.equals(sent)) {
      sent = null;
    }
  }
}
