package org.mnemex.service.publish;

import java.time.Duration;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** Which objects this run has written to the store lately, for others that wait to read them. */
@Component
public class News {
  /** Tells the numbers of this run from those of others. */
  private final String run = UUID.randomUUID().toString().substring(0, 8);

  private final Map<String, Long> numbers = new HashMap<>();
  private long last;
  private boolean isOver;

  /**
   * What was written.
   *
   * @param upTo how much of it is known with this, to be shown when asking for more
   * @param objects names of objects, none if nothing was written in time; null: nobody knows which
   */
  public record Written(String upTo, @Nullable Set<String> objects) {}

  /** Notes that an object was written. */
  synchronized void wrote(String object) {
    numbers.put(object, ++last);
    notifyAll();
  }

  /** Forgets objects that are gone. */
  synchronized void keep(Set<String> objects) {
    numbers.keySet().retainAll(objects);
  }

  /**
   * Waits until something is written after what is known.
   *
   * @param known the {@code upTo} of the news before; null if there were none
   * @param atMost how long to wait
   */
  public synchronized Written after(@Nullable String known, Duration atMost)
      throws InterruptedException {
    long number = number(known);
    if (number < 0) {
      return new Written(run + "-" + last, null);
    }
    long end = System.nanoTime() + atMost.toNanos();
    for (long left = atMost.toNanos();
        last == number && left > 0 && !isOver;
        left = end - System.nanoTime()) {
      TimeUnit.NANOSECONDS.timedWait(this, left);
    }
    Set<String> objects = new HashSet<>();
    numbers.forEach(
        (object, at) -> {
          if (at > number) {
            objects.add(object);
          }
        });
    return new Written(run + "-" + last, objects);
  }

  /** The number that somebody knows; -1 if it is none of this run. */
  private long number(@Nullable String known) {
    if (known == null || !known.startsWith(run + "-")) {
      return -1;
    }
    try {
      long number = Long.parseLong(known.substring(run.length() + 1));
      return number <= last ? number : -1;
    } catch (NumberFormatException e) {
      return -1;
    }
  }

  /** Lets nobody wait any more. */
  public synchronized void end() {
    isOver = true;
    notifyAll();
  }
}
