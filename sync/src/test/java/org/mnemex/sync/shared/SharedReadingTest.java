package org.mnemex.sync.shared;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.ShrinkingMode;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

class SharedReadingTest {
  private static final List<String> TABLES = List.of("plant", "lot", "note");
  private static final Duration SOON = Duration.ofMillis(5);

  /** What reads for all may itself wait for a slow reader. */
  private static final Duration OTHERS_WAIT = Duration.ofMillis(5);

  private static final Duration LONG = Duration.ofSeconds(60);
  private static final int TRIES = 25;
  private static final int STEPS = 300;

  /** So small that readers fall behind. */
  private static final WindowLimits TIGHT = new WindowLimits(20, Duration.ofMillis(2));

  private final Model usual = new Model(WindowLimits.USUAL);

  @AfterEach
  void end() {
    usual.readers.forEach(reader -> reader.capture.close());
  }

  @Property(tries = TRIES, shrinking = ShrinkingMode.OFF)
  void noReaderMissesAnythingOrClaimsTooMuch(@ForAll long seed) throws Exception {
    new Model(TIGHT).play(new Random(seed));
  }

  @Test
  void readersThatHaveCaughtUpAreReadForOnce() throws Exception {
    for (int i = 0; i < 5; i++) {
      usual.new Reader("plant");
    }
    usual.write("plant");
    for (Model.Reader reader : usual.readers) {
      reader.drain();
    }
    int asked = usual.asked;
    for (int i = 0; i < 20; i++) {
      usual.write(TABLES.get(i % 2));
      for (Model.Reader reader : usual.readers) {
        reader.take(10);
      }
    }
    for (Model.Reader reader : usual.readers) {
      reader.drain();
    }
    assertThat(usual.asked).as("times that a reader read for itself").isEqualTo(asked);
    assertThat(usual.opened.get()).as("captures that read for all").isEqualTo(1);
  }

  @Test
  void thatNobodyIsLeftIsNoFailure() throws Exception {
    Model.Reader first = usual.new Reader("plant");
    first.drain();
    assertThat(usual.opened.get()).isEqualTo(1);
    first.capture.close();
    usual.new Reader("plant").drain();
    assertThat(usual.opened.get()).as("captures that read for all").isEqualTo(2);
  }

  @Test
  void ofAFailureEachReaderFindsOutForItself() throws Exception {
    Model.Reader lost = usual.new Reader("plant");
    Model.Reader other = usual.new Reader("plant");
    lost.drain();
    other.drain();
    usual.write("plant");
    lost.drain();
    other.drain();
    usual.failing = new PositionLostException("the journal is gone");
    lost.own.failing = new PositionLostException("the journal is gone");
    assertThatThrownBy(
            () -> {
              while (true) {
                lost.take(10);
              }
            })
        .hasMessage("the journal is gone");
    usual.write("plant");
    other.drain();
  }

  /** A source whose numbers are given before commits, and readers of one table each. */
  private static final class Model {
    private final TreeMap<Long, Line> visible = new TreeMap<>();
    private final TreeSet<Long> open = new TreeSet<>();
    private final List<Reader> readers = new ArrayList<>();
    private final SharedReading reading;
    private long last;

    /** What the capture that reads for all throws next. */
    private volatile @Nullable RuntimeException failing;

    /** What happens before a reader that has read for itself gets what it has read. */
    private Random meanwhile = new Random(0);

    private boolean isRestless;

    /** Everything up to here was handed out by the capture that reads for all. */
    private final Set<Long> handedToAll = new HashSet<>();

    private final AtomicInteger opened = new AtomicInteger();
    private int asked;

    Model(WindowLimits limits) {
      reading =
          new SharedReading(
              "garden",
              () -> {
                opened.incrementAndGet();
                return new Following(true);
              },
              () -> Set.copyOf(TABLES),
              limits);
    }

    private record Line(String table, long nanos) {}

    synchronized void write(String table) {
      commit(begin(), table);
    }

    /** Others write, and the capture that reads for all reads that. */
    private synchronized void others() throws InterruptedException {
      for (int i = meanwhile.nextInt(40); i > 0; i--) {
        write(TABLES.get(meanwhile.nextInt(TABLES.size())));
      }
      long deadline = System.nanoTime() + OTHERS_WAIT.toNanos();
      while (!handedToAll.containsAll(visible.keySet()) && System.nanoTime() < deadline) {
        TimeUnit.NANOSECONDS.timedWait(this, Math.max(1, deadline - System.nanoTime()));
      }
    }

    synchronized long begin() {
      open.add(++last);
      return last;
    }

    synchronized void commit(long number, String table) {
      open.remove(number);
      visible.put(number, new Line(table, System.nanoTime()));
      notifyAll();
    }

    synchronized void rollBack(long number) {
      open.remove(number);
    }

    /** Hands out what is visible; the position stays before the first number that is not. */
    private final class Following implements Source.Capture {
      private final boolean forAll;
      private final Set<Long> handed = new HashSet<>();
      private @Nullable Position next;
      private volatile @Nullable RuntimeException failing;

      Following(boolean forAll) {
        this.forAll = forAll;
      }

      @Override
      public Position now() {
        synchronized (Model.this) {
          return new Position("lines", open.isEmpty() ? last : open.first() - 1);
        }
      }

      @Override
      public Position last() {
        return now();
      }

      @Override
      public Changes after(Position position, int limit, Duration wait)
          throws SourceUnavailableException, InterruptedException {
        RuntimeException why = forAll ? Model.this.failing : failing;
        if (why != null) {
          throw why;
        }
        Changes changes;
        try {
          changes = read(position, limit, wait);
        } catch (InterruptedException e) {
          // As connections to databases say it.
          Thread.currentThread().interrupt();
          throw new SourceUnavailableException("interrupted", e);
        }
        synchronized (Model.this) {
          if (!forAll && isRestless && meanwhile.nextInt(3) == 0) {
            others();
          }
        }
        return changes;
      }

      private Changes read(Position position, int limit, Duration wait)
          throws InterruptedException {
        synchronized (Model.this) {
          asked += forAll ? 0 : 1;
          int most = forAll && isRestless ? 1 + meanwhile.nextInt(10) : limit;
          if (!position.equals(next)) {
            handed.clear();
          }
          long deadline = System.nanoTime() + wait.toNanos();
          List<Long> numbers = numbers(position, most);
          while (numbers.isEmpty() && System.nanoTime() < deadline) {
            TimeUnit.NANOSECONDS.timedWait(Model.this, deadline - System.nanoTime());
            numbers = numbers(position, most);
          }
          handed.addAll(numbers);
          if (forAll) {
            handedToAll.addAll(numbers);
            Model.this.notifyAll();
          }
          long held = open.isEmpty() ? last + 1 : open.first();
          for (long number : visible.tailMap(position.number(), false).keySet()) {
            if (!handed.contains(number)) {
              held = Math.min(held, number);
            }
          }
          Position upTo = new Position("lines", Math.max(position.number(), held - 1));
          next = upTo;
          return new Changes(
              numbers.stream().map(number -> change(number)).toList(), upTo, numbers.size() < most);
        }
      }

      private List<Long> numbers(Position position, int limit) {
        return visible.tailMap(position.number(), false).keySet().stream()
            .filter(number -> !handed.contains(number))
            .limit(limit)
            .toList();
      }

      private Change change(long number) {
        return new Change(
            visible.get(number).table,
            Map.of("id", number),
            Instant.EPOCH,
            new Position("lines", number));
      }

      @Override
      public void done(Position position) {
        // Everything is kept.
      }

      @Override
      public void leave() {
        // Nothing is kept for it.
      }

      @Override
      public void abort() {
        // It has no connections.
      }

      @Override
      public void close() {
        next = null;
      }
    }

    private final class Reader {
      private final String table;
      private final Set<Long> got = new HashSet<>();
      private Following own = new Following(false);
      private SharedCapture capture;
      private Position at;
      private Position committed;

      Reader(String table) {
        this.table = table;
        at = own.now();
        committed = at;
        capture = new SharedCapture(reading, own, columns());
        synchronized (Model.this) {
          got.addAll(visible.headMap(at.number(), true).keySet());
        }
        readers.add(this);
      }

      private Map<String, Set<String>> columns() {
        return Map.of(table, Set.of("id"));
      }

      void take(int limit) throws Exception {
        long began = System.nanoTime();
        Changes changes = capture.after(at, limit, SOON);
        assertThat(changes.upTo().number()).isGreaterThanOrEqualTo(at.number());
        changes.list().stream()
            .filter(change -> change.table().equals(table))
            .forEach(change -> got.add((Long) change.columns().get("id")));
        at = changes.upTo();
        Long moment = changes.allAt();
        if (moment != null || changes.complete()) {
          claims(moment == null ? began : moment);
        }
        assertThat(got).containsAll(mine(Long.MAX_VALUE, at.number()));
      }

      private void claims(long moment) {
        assertThat(got).as("all that was committed then").containsAll(mine(moment, last));
      }

      /** Its lines that were visible before a moment, up to a number. */
      private List<Long> mine(long moment, long upTo) {
        synchronized (Model.this) {
          return visible.headMap(upTo, true).entrySet().stream()
              .filter(line -> line.getValue().table.equals(table))
              .filter(line -> line.getValue().nanos < moment)
              .map(Map.Entry::getKey)
              .toList();
        }
      }

      /** Goes on from an earlier position: what was handed out after it comes again. */
      void goBack(Position position) {
        got.removeIf(number -> number > position.number());
        at = position;
      }

      void crash() {
        capture.close();
        own = new Following(false);
        capture = new SharedCapture(reading, own, columns());
        goBack(committed);
      }

      void drain() throws Exception {
        long deadline = System.nanoTime() + LONG.toNanos();
        List<Long> all = mine(Long.MAX_VALUE, last);
        while (!got.containsAll(all) && System.nanoTime() < deadline) {
          take(100);
        }
        take(100);
        assertThat(got).containsAll(all);
      }
    }

    void play(Random random) throws Exception {
      meanwhile = new Random(random.nextLong());
      isRestless = true;
      new Reader("plant");
      for (int step = 0; step < STEPS; step++) {
        Reader any = readers.get(random.nextInt(readers.size()));
        String table = TABLES.get(random.nextInt(TABLES.size()));
        switch (random.nextInt(14)) {
          case 0, 1, 2 -> write(table);
          case 3 -> begin();
          case 4 -> {
            for (int i = random.nextInt(40); i > 0; i--) {
              write(table);
            }
          }
          case 5, 6 -> {
            if (!open.isEmpty()) {
              long number = List.copyOf(open).get(random.nextInt(open.size()));
              if (random.nextInt(3) == 0) {
                rollBack(number);
              } else {
                commit(number, table);
              }
            }
          }
          case 7 -> any.committed = any.at;
          case 8 -> {
            if (random.nextInt(3) == 0) {
              any.crash();
            } else {
              // What was handed out could not be applied.
              any.capture.close();
              any.goBack(any.committed);
            }
          }
          case 9 -> {
            if (readers.size() < 5) {
              new Reader(table);
            }
          }
          default -> any.take(1 + random.nextInt(30));
        }
      }
      List.copyOf(open).forEach(number -> commit(number, "plant"));
      synchronized (this) {
        isRestless = false;
      }
      for (Reader reader : readers) {
        reader.drain();
        reader.capture.close();
      }
    }
  }
}
