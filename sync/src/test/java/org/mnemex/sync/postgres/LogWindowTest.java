package org.mnemex.sync.postgres;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Reached;

class LogWindowTest {
  private static final Map<String, Set<String>> COLUMNS = Map.of("note", Set.of("id"));
  private static final Position START = at(100);
  private static final Duration LONG = Duration.ofSeconds(60);

  private final LogWindow window = new LogWindow(WindowLimits.USUAL);

  @Test
  void aLookAtTheEndOfTheLogDoesNotCutAReaderOffWithinATransaction() throws Exception {
    window.open(START, COLUMNS);
    AtomicReference<LogWindow.Cursor> place = new AtomicReference<>();
    assertThat(window.join(START, COLUMNS, place::set)).isEqualTo(LogWindow.Place.HERE);
    window.add(List.of(piece(null)), START);
    assertThat(window.take(place.get(), 10, LONG).isCut()).isTrue();
    window.sight(150, System.nanoTime());
    try (ExecutorService reader = Executors.newSingleThreadExecutor()) {
      AtomicReference<Thread> thread = new AtomicReference<>();
      CompletableFuture<LogWindow.Taken> taking =
          CompletableFuture.supplyAsync(
              () -> {
                thread.set(Thread.currentThread());
                try {
                  return window.take(place.get(), 10, LONG);
                } catch (Exception e) {
                  throw new AssertionError(e);
                }
              },
              reader);
      while (!taking.isDone() && !isWaiting(thread.get())) {
        Thread.onSpinWait();
      }
      window.add(List.of(piece(at(200))), at(200));
      assertThat(taking.get().pieces()).hasSize(1);
      assertThat(taking.get().upTo()).isEqualTo(at(200));
    }
  }

  /** A waiting reader is as far as the log, also past transactions that concern nobody. */
  @Test
  void aWaitingReaderIsAsFarAsTheLog() throws Exception {
    window.open(START, COLUMNS);
    AtomicReference<LogWindow.Cursor> place = new AtomicReference<>();
    assertThat(window.join(START, COLUMNS, place::set)).isEqualTo(LogWindow.Place.HERE);
    window.sight(100, System.nanoTime());
    assertThat(window.reached(place.get())).as("before it waits").isNull();
    try (ExecutorService reader = Executors.newSingleThreadExecutor()) {
      Future<LogWindow.Taken> taking = reader.submit(() -> window.take(place.get(), 10, LONG));
      while (window.reached(place.get()) == null) {
        Thread.onSpinWait();
      }
      window.add(List.of(new LogPiece(List.of(), 190, at(200), Set.of(), Set.of())), at(200));
      long looked = System.nanoTime();
      window.sight(200, looked);
      Reached reached = window.reached(place.get());
      assertThat(reached).isEqualTo(new Reached(at(200), looked));
      window.wake(place.get());
      assertThat(taking.get().pieces()).isEmpty();
      assertThat(taking.get().upTo()).isEqualTo(at(200));

      // What it takes is not applied yet.
      window.add(List.of(piece(at(300))), at(300));
      assertThat(window.take(place.get(), 10, LONG).pieces()).hasSize(1);
      taking = reader.submit(() -> window.takeMore(place.get(), 10, LONG));
      window.sight(300, System.nanoTime());
      assertThat(window.reached(place.get())).isNull();
      window.wake(place.get());
      taking.get();
    }
  }

  private static boolean isWaiting(@Nullable Thread thread) {
    return thread != null && thread.getState() == Thread.State.TIMED_WAITING;
  }

  private static Position at(long number) {
    return new Position("wal-1", number, new CommitMark(number, 0).toString());
  }

  private static LogPiece piece(@Nullable Position after) {
    Change change = new Change("note", Map.of("id", 1), Instant.EPOCH, START);
    return new LogPiece(List.of(change), 190, after, Set.of(), Set.of());
  }
}
