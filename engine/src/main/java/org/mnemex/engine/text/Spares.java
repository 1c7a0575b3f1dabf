package org.mnemex.engine.text;

import java.util.ArrayDeque;
import java.util.Deque;
import java.util.function.Supplier;

/**
 * Objects that are costly to make and can be used by only one thread at a time. A thread takes one
 * and returns it when it is done, so the number of threads and how long they live do not matter.
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
