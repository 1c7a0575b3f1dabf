package org.mnemex.engine.text;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.function.Supplier;

/**
 * What one thread at a time may use and is costly to make: who needs one takes it and gives it back
 * for the next. Threads may be as many and as short as they like, so nothing is kept for each.
 */
final class Spares<T> {
  private final Supplier<T> maker;
  private final Deque<T> spares = new ArrayDeque<>();

  /**
   * @param maker makes another one while all are in use
   */
  Spares(Supplier<T> maker) {
    this.maker = maker;
  }

  T take() {
    T spare;
    synchronized (spares) {
      spare = spares.poll();
    }
    return spare == null ? maker.get() : spare;
  }

  void giveBack(T used) {
    synchronized (spares) {
      spares.push(used);
    }
  }
}
