package org.mnemex.service.publish;

import java.time.Duration;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.shard.Held;
import org.mnemex.service.shard.ShardsHere;

/** What this node has for others, who wait for it to change. */
final class OfferedShards {
  /** Tells the numbers of this run from those of others. */
  private final String run = UUID.randomUUID().toString().substring(0, 8);

  private List<Held> held = List.of();
  private long number;
  private boolean isOver;

  /** Notes what there is now. */
  synchronized void offer(List<Held> now) {
    if (!now.equals(held)) {
      held = now;
      number++;
      notifyAll();
    }
  }

  /**
   * Waits until there is something else than what is known.
   *
   * @param known what {@link ShardsHere#upTo} said before; null if nothing is known
   * @param atMost how long to wait
   */
  synchronized ShardsHere after(@Nullable String known, Duration atMost)
      throws InterruptedException {
    long end = System.nanoTime() + atMost.toNanos();
    for (long left = atMost.toNanos();
        upTo().equals(known) && left > 0 && !isOver;
        left = end - System.nanoTime()) {
      TimeUnit.NANOSECONDS.timedWait(this, left);
    }
    return new ShardsHere(upTo(), held);
  }

  private String upTo() {
    return run + "-" + number;
  }

  /** Lets nobody wait any more. */
  synchronized void end() {
    isOver = true;
    notifyAll();
  }
}
