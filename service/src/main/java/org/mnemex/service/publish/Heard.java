package org.mnemex.service.publish;

import java.time.Duration;
import java.util.HashSet;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/** What others say was written, until it has been looked at. */
final class Heard {
  private Set<String> objects = new HashSet<>();
  private boolean isAll;
  private long last;
  private long done;

  /**
   * What is to be looked at now.
   *
   * @param objects names of objects; null: everything
   */
  record Taken(@Nullable Set<String> objects, long number) {}

  /**
   * Adds what was said.
   *
   * @param names names of objects; null: anything
   * @return a number to wait for
   */
  synchronized long add(@Nullable Set<String> names) {
    isAll |= names == null;
    if (names != null) {
      objects.addAll(names);
    }
    return ++last;
  }

  /** Takes what was said. Nothing was if it is simply time to look at everything again. */
  synchronized Taken take() {
    Taken taken = new Taken(isAll || objects.isEmpty() ? null : objects, last);
    objects = new HashSet<>();
    isAll = false;
    return taken;
  }

  /** Notes that something was looked at, as far as possible. */
  synchronized void done(Taken taken) {
    done = taken.number();
    notifyAll();
  }

  /** Waits until what was said with a number has been looked at. */
  synchronized void await(long number, Duration atMost) throws InterruptedException {
    long end = System.nanoTime() + atMost.toNanos();
    for (long left = atMost.toNanos(); done < number && left > 0; left = end - System.nanoTime()) {
      TimeUnit.NANOSECONDS.timedWait(this, left);
    }
  }
}
