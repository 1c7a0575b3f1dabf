package org.mnemex.sync.shared;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Reached;

class ChangeWindowTest {
  private static final Map<String, Set<String>> COLUMNS = Map.of("note", Set.of("id"));
  private static final Position START = at(100);
  private static final Duration LONG = Duration.ofSeconds(60);

  private final ChangeWindow window = new ChangeWindow(WindowLimits.USUAL, MarkCheck.NONE);

  /** A waiting reader is as far as the log, also past transactions that concern nobody. */
  @Test
  void aWaitingReaderIsAsFarAsTheLog() throws Exception {
    window.open(START, 100, COLUMNS);
    AtomicReference<Cursor> place = new AtomicReference<>();
    assertThat(window.join(START, 100, COLUMNS, place::set)).isEqualTo(ChangeWindow.Place.HERE);
    window.sight(100, System.nanoTime());
    assertThat(window.reached(place.get())).as("before it waits").isNull();
    try (ExecutorService reader = Executors.newSingleThreadExecutor()) {
      Future<Taken> taking = reader.submit(() -> window.take(place.get(), 10, LONG));
      while (window.reached(place.get()) == null) {
        Thread.onSpinWait();
      }
      window.add(
          List.of(new Piece(List.of(), 191, at(200), 200, Set.of(), Set.of())),
          at(200),
          200,
          false);
      long looked = System.nanoTime();
      window.sight(200, looked);
      Reached reached = window.reached(place.get());
      assertThat(reached).isEqualTo(new Reached(at(200), looked));
      window.wake(place.get());
      assertThat(taking.get().pieces()).isEmpty();
      assertThat(taking.get().upTo()).isEqualTo(at(200));

      // What it takes is not applied yet.
      window.add(List.of(piece(at(300))), at(300), 300, false);
      assertThat(window.take(place.get(), 10, LONG).pieces()).hasSize(1);
      taking = reader.submit(() -> window.takeMore(place.get(), 10, LONG));
      window.sight(300, System.nanoTime());
      assertThat(window.reached(place.get())).isNull();
      window.wake(place.get());
      taking.get();
    }
  }

  /** What was to follow did not concern anybody: nobody waits for it any longer. */
  @Test
  @Timeout(value = 30, unit = TimeUnit.SECONDS)
  void aReaderDoesNotWaitForWhatDoesNotCome() throws Exception {
    window.open(START, 100, COLUMNS);
    AtomicReference<Cursor> place = new AtomicReference<>();
    assertThat(window.join(START, 100, COLUMNS, place::set)).isEqualTo(ChangeWindow.Place.HERE);
    window.add(List.of(piece(at(200))), at(200), 200, true);
    assertThat(window.take(place.get(), 10, LONG).cut()).isTrue();
    try (ExecutorService reader = Executors.newSingleThreadExecutor()) {
      AtomicReference<Thread> thread = new AtomicReference<>();
      Future<Taken> taking =
          reader.submit(
              () -> {
                thread.set(Thread.currentThread());
                return window.takeMore(place.get(), 10, LONG);
              });
      while (thread.get() == null || thread.get().getState() != Thread.State.TIMED_WAITING) {
        Thread.onSpinWait();
      }
      window.add(List.of(), at(300), 300, false);
      assertThat(taking.get().upTo()).isEqualTo(at(300));
    }
    // It was known before it was asked.
    assertThat(window.takeMore(place.get(), 10, LONG).pieces()).isEmpty();
  }

  /** A position may be held back while changes after it are handed out, and then dropped. */
  @Test
  void aReaderThatNeedsWhatWasDroppedDoesNotJoin() throws Exception {
    ChangeWindow small = new ChangeWindow(new WindowLimits(3, Duration.ZERO), MarkCheck.NONE);
    small.open(START, 0, COLUMNS);
    for (long number = 101; number <= 110; number++) {
      small.add(
          List.of(new Piece(changes(), number, START, 1, Set.of(), Set.of())), START, 1, false);
    }
    assertThat(small.makeRoom(Duration.ZERO)).isTrue();
    Consumer<Cursor> nobody = cursor -> {};
    assertThat(small.join(START, 0, COLUMNS, nobody)).isEqualTo(ChangeWindow.Place.BEHIND);
    small.add(
        List.of(new Piece(changes(), 111, at(111), 2, Set.of(), Set.of())), at(111), 2, false);
    assertThat(small.join(at(111), 0, COLUMNS, nobody)).isEqualTo(ChangeWindow.Place.HERE);
  }

  private static List<Change> changes() {
    return List.of(new Change("note", Map.of("id", 1), Instant.EPOCH, START));
  }

  private static Position at(long number) {
    return new Position("log-1", number);
  }

  private static Piece piece(Position after) {
    Change change = new Change("note", Map.of("id", 1), Instant.EPOCH, START);
    return new Piece(
        List.of(change), after.number() - 9, after, after.number(), Set.of(), Set.of());
  }
}
