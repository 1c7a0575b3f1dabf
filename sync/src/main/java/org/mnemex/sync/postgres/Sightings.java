package org.mnemex.sync.postgres;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Iterator;
import org.jspecify.annotations.Nullable;

/** Where a log ended at the last few moments that somebody looked. */
final class Sightings {
  private static final int MAX = 32;

  private final Deque<Sighting> all = new ArrayDeque<>();

  private record Sighting(long written, long nanos) {}

  /**
   * Notes the end of the log.
   *
   * @param nanos a moment before it was asked for, by {@link System#nanoTime}
   */
  void add(long written, long nanos) {
    if (all.size() == MAX) {
      all.removeFirst();
    }
    all.addLast(new Sighting(written, nanos));
  }

  /** Whether the log ended before a number, last time. */
  boolean endBefore(long number) {
    Sighting newest = all.peekLast();
    return newest != null && Long.compareUnsigned(newest.written, number) < 0;
  }

  /** Whether a number was the end of the log or beyond it, last time. */
  boolean endAt(long number) {
    Sighting newest = all.peekLast();
    return newest != null && Long.compareUnsigned(newest.written, number) <= 0;
  }

  /**
   * The last moment, by {@link System#nanoTime}, at which a number was the end of the log or beyond
   * it; null if unknown.
   */
  @Nullable Long lastAt(long number) {
    for (Iterator<Sighting> backwards = all.descendingIterator(); backwards.hasNext(); ) {
      Sighting sighting = backwards.next();
      if (Long.compareUnsigned(sighting.written, number) <= 0) {
        return sighting.nanos;
      }
    }
    return null;
  }
}
