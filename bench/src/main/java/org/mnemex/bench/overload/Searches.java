package org.mnemex.bench.overload;

import java.io.IOException;
import java.net.URI;
import java.util.List;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;
import org.mnemex.bench.Times;

/** Callers who search at a rate, whatever the answers. */
final class Searches {
  private static final List<String> PATHS =
      List.of(
          "/search/plant-search?q=fern",
          "/search/plant-search?q=late+frost&height=30..100",
          "/search/plant-search?q=slug&sort=newest&page=3",
          "/search/plant-search?q=aphids+OR+slugs&family=Rosaceae",
          "/search/plant-search?q=harts*",
          "/search/plant-search/suggest?q=ro",
          "/search/plant-search/facets/collector?begins=a&q=moss",
          "/search/plant-search?similar_to=QB-00017");
  private static final int OK = 200;
  private static final int BUSY = 503;

  private final URI service;
  private final Times answered = new Times();
  private final Times refused = new Times();
  private final AtomicLong failed = new AtomicLong();
  private final AtomicLong skipped = new AtomicLong();

  Searches(URI service) {
    this.service = service;
  }

  /**
   * Searches for a while and waits for the last answers.
   *
   * @param callers each has a connection and one search at a time
   * @param rate searches a second by all callers together; those that fall due while a caller waits
   *     for an answer are skipped; infinite to search again at once
   */
  void run(int callers, double rate, long nanos) throws InterruptedException {
    long end = System.nanoTime() + nanos;
    long every = (long) (TimeUnit.SECONDS.toNanos(1) * callers / rate);
    Thread[] threads = new Thread[callers];
    for (int i = 0; i < callers; i++) {
      long first = System.nanoTime() + (long) (ThreadLocalRandom.current().nextDouble() * every);
      threads[i] = Thread.ofVirtual().start(() -> search(first, every, end));
    }
    for (Thread thread : threads) {
      thread.join();
    }
  }

  private void search(long first, long every, long end) {
    RawConnection connection = null;
    for (long due = first; due < end && System.nanoTime() < end; ) {
      LockSupport.parkNanos(due - System.nanoTime());
      long start = System.nanoTime();
      try {
        if (connection == null) {
          connection = new RawConnection(service);
        }
        int status = connection.get(PATHS.get(ThreadLocalRandom.current().nextInt(PATHS.size())));
        note(status, System.nanoTime() - start);
        if (connection.isClosing()) {
          close(connection);
          connection = null;
        }
      } catch (IOException e) {
        failed.incrementAndGet();
        close(connection);
        connection = null;
      }
      for (due += every; every > 0 && due + every < System.nanoTime(); due += every) {
        skipped.incrementAndGet();
      }
    }
    close(connection);
  }

  private void note(int status, long took) {
    if (status == OK) {
      answered.add(took);
    } else if (status == BUSY) {
      refused.add(took);
    } else {
      failed.incrementAndGet();
    }
  }

  private static void close(@Nullable RawConnection connection) {
    try {
      if (connection != null) {
        connection.close();
      }
    } catch (IOException e) {
      // It is gone already.
    }
  }

  Times answered() {
    return answered;
  }

  Times refused() {
    return refused;
  }

  long failed() {
    return failed.get();
  }

  long skipped() {
    return skipped.get();
  }
}
