package org.mnemex.sync.shared;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.Iterator;
import org.jspecify.annotations.Nullable;

/** How far a source could be read at the last few moments that somebody looked. */
final class Sightings {
  private static final int MAX = 32;

  private final Deque<Sighting> all = new ArrayDeque<>();

  private record Sighting(long reach, long nanos) {}

  /**
   * Notes how far the source could be read.
   *
   * @param nanos a moment before it was asked for, by {@link System#nanoTime}
   */
  void add(long reach, long nanos) {
    if (all.size() == MAX) {
      all.removeFirst();
    }
    all.addLast(new Sighting(reach, nanos));
  }

  /** Whether the source could be read less far than a number, last time. */
  boolean endBefore(long number) {
    Sighting newest = all.peekLast();
    return newest != null && Long.compareUnsigned(newest.reach, number) < 0;
  }

  /** Whether the source could be read no further than a number, last time. */
  boolean endAt(long number) {
    Sighting newest = all.peekLast();
    return newest != null && Long.compareUnsigned(newest.reach, number) <= 0;
  }

  /**
   * The last moment, by {@link System#nanoTime}, at which the source could be read no further than
   * a number; null if unknown.
   */
  @Nullable Long lastAt(long number) {
    for (Iterator<Sighting> backwards = all.descendingIterator(); backwards.hasNext(); ) {
      Sighting sighting = backwards.next();
      if (Long.compareUnsigned(sighting.reach, number) <= 0) {
        return sighting.nanos;
      }
    }
    return null;
  }
}
