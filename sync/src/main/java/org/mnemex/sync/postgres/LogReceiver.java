package org.mnemex.sync.postgres;

import java.nio.ByteBuffer;
import java.sql.SQLException;
import java.time.Duration;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.shared.ChangeWindow;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Reads the log of a database once, for all readers of an installation: one thread, two
 * connections, one replication slot. It runs while somebody reads, and stops at an error, which all
 * readers get; the next one who asks starts it again.
 *
 * <p>The slot is confirmed up to the least position that a reader has confirmed, and not at all
 * while the position of a reader that exists is unknown.
 */
final class LogReceiver {
  private static final Logger LOG = LoggerFactory.getLogger(LogReceiver.class);

  /** A transaction with more changes than this is handed over in pieces. */
  private static final int PIECE = 1000;

  private static final Duration SIGHT_INTERVAL = Duration.ofMillis(100);

  /** After so long without a message the end of the log is looked at less often. */
  private static final Duration QUIET = Duration.ofSeconds(2);

  private static final Duration QUIET_SIGHT_INTERVAL = Duration.ofMillis(500);

  private static final Duration GREET_INTERVAL = Duration.ofSeconds(5);
  private static final Duration END_WAIT = Duration.ofSeconds(2);
  private static final Duration ROOM_WAIT = Duration.ofMillis(100);

  /** How long a slot that is in use elsewhere is not asked for again. */
  private static final Duration BUSY_INTERVAL = Duration.ofSeconds(10);

  private final PostgresSource source;
  private final String slot;
  private final ReaderPositions positions;
  private final Set<LogCapture> users = new HashSet<>();
  private final Map<String, Set<String>> watched = new TreeMap<>();
  private final Set<String> ownSlots = new HashSet<>();
  private final Set<String> foundSlots = new HashSet<>();
  private @Nullable ChangeWindow window;
  private @Nullable Thread thread;
  private @Nullable LogStream stream;
  private long busySince;
  private boolean busy;
  private boolean creates;
  private volatile boolean watchesMore;
  private volatile boolean confirms;

  /** Up to where changes were given up. */
  private volatile long given;

  LogReceiver(PostgresSource source, String installation, ReaderPositions positions) {
    this.source = source;
    this.slot = SlotNames.shared(source.name(), installation);
    this.positions = positions;
  }

  /** The slot that all readers share. */
  String slot() {
    return slot;
  }

  /**
   * The window of a running receiver, started if needed; null if its slot is in use elsewhere.
   *
   * @param user who will take from it, until {@link #leave}
   * @param create whether to create the slot if there is none
   */
  synchronized @Nullable ChangeWindow enter(LogCapture user, boolean create) {
    users.add(user);
    watch(user.columns());
    ownSlots.add(user.ownSlot());
    creates |= create;
    ChangeWindow running = window;
    if (running != null && !running.hasFailed()) {
      return running;
    }
    if (busy && System.nanoTime() - busySince < BUSY_INTERVAL.toNanos()) {
      return null;
    }
    ChangeWindow opening = new ChangeWindow(source.limits(), CommitMark::check);
    LogStream opened = new LogStream(source);
    window = opening;
    stream = opened;
    busy = false;
    thread =
        Thread.ofPlatform()
            .name("log-" + source.name())
            .daemon()
            .start(() -> receive(opening, opened));
    return opening;
  }

  /** Has some columns watched from now on, if they are not yet. */
  synchronized void watch(Map<String, Set<String>> columns) {
    columns.forEach(
        (table, names) -> {
          if (watched.computeIfAbsent(table, name -> new TreeSet<>()).addAll(names)) {
            watchesMore = true;
          }
        });
  }

  /** Whether the database had a slot when reading began, and nobody has dropped it here since. */
  synchronized boolean hasFound(String name) {
    return foundSlots.contains(name);
  }

  /** Notes that a slot was dropped. */
  synchronized void forget(String name) {
    foundSlots.remove(name);
  }

  /** Whether the slot is in use elsewhere. */
  synchronized boolean isBusy() {
    return busy;
  }

  /** Whether anybody takes part. */
  synchronized boolean isUsed() {
    return !users.isEmpty();
  }

  /** Whether a reader takes part. */
  synchronized boolean isUsedBy(String reader) {
    return users.stream().anyMatch(user -> user.reader().equals(reader));
  }

  /** A user no longer takes anything. Nobody left means that the receiver stops. */
  void leave(LogCapture user) {
    Thread last;
    LogStream left;
    synchronized (this) {
      if (!users.remove(user) || !users.isEmpty()) {
        return;
      }
      last = thread;
      left = stream;
      thread = null;
      stream = null;
      window = null;
    }
    if (last == null || left == null) {
      return;
    }
    last.interrupt();
    try {
      if (!last.join(END_WAIT)) {
        // The server does not answer.
        left.abort();
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private synchronized boolean isCurrent(ChangeWindow mine) {
    return window == mine;
  }

  private synchronized Map<String, Set<String>> takeWatched() {
    watchesMore = false;
    Map<String, Set<String>> now = new TreeMap<>();
    watched.forEach((table, columns) -> now.put(table, Set.copyOf(columns)));
    return now;
  }

  /** Has the slot confirmed again, because a position has changed. */
  void confirm() {
    confirms = true;
  }

  /** Up to where changes were given up: a reader before it has lost some. */
  long given() {
    return given;
  }

  private void receive(ChangeWindow mine, LogStream stream) {
    try {
      follow(mine, stream);
    } catch (SQLException e) {
      if (LogStream.isBusy(e)) {
        synchronized (this) {
          busy = true;
          busySince = System.nanoTime();
        }
      }
      mine.fail(source.unavailable(e));
    } catch (InterruptedException e) {
      mine.fail(new SourceUnavailableException("the log is no longer read", e));
    } catch (SourceUnavailableException | RuntimeException e) {
      mine.fail(e);
    } finally {
      stream.close();
    }
  }

  private void follow(ChangeWindow mine, LogStream stream)
      throws SQLException, SourceUnavailableException, InterruptedException {
    String history = stream.history();
    long start = start(stream);
    Position from = new Position(history, start, new CommitMark(start, 0).toString());
    Map<String, Set<String>> columns = takeWatched();
    LogDecoder decoder = new LogDecoder(history, source.schema(), tables(columns), from, start);
    stream.start(slot, start);
    given = start;
    long sighted = System.nanoTime();
    mine.sight(stream.written(), sighted);
    mine.open(from, from.number(), columns);
    confirms = true;
    long greeted = sighted;
    long heard = sighted;
    Position handed = from;
    while (isCurrent(mine)) {
      ByteBuffer message = stream.next();
      if (message != null) {
        decoder.decode(message);
        heard = System.nanoTime();
      }
      boolean idle = message == null;
      if (decoder.size() >= PIECE || idle && !decoder.isOpen()) {
        if (idle) {
          decoder.seen(stream.received());
        }
        if (decoder.size() > 0 || !decoder.committed().equals(handed)) {
          hand(mine, stream, decoder);
          handed = decoder.committed();
        }
      }
      if (watchesMore && !decoder.isOpen()) {
        hand(mine, stream, decoder);
        Map<String, Set<String>> more = takeWatched();
        decoder.watch(tables(more));
        mine.watch(more);
      }
      long now = System.nanoTime();
      Duration silence = Duration.ofNanos(now - heard);
      Duration interval = silence.compareTo(QUIET) >= 0 ? QUIET_SIGHT_INTERVAL : SIGHT_INTERVAL;
      if (now - sighted >= interval.toNanos()) {
        sighted = now;
        mine.sight(stream.written(), now);
      }
      confirmIfAsked(stream, history);
      while (!mine.makeRoom(ROOM_WAIT) && isCurrent(mine)) {
        confirmIfAsked(stream, history);
        if (System.nanoTime() - greeted >= GREET_INTERVAL.toNanos()) {
          greeted = System.nanoTime();
          stream.greet();
        }
      }
      if (idle) {
        stream.awaitNext(interval.minusNanos(System.nanoTime() - sighted));
      }
    }
  }

  private static Function<String, Set<String>> tables(Map<String, Set<String>> columns) {
    return table -> columns.getOrDefault(table, Set.of());
  }

  private static void hand(ChangeWindow mine, LogStream stream, LogDecoder decoder)
      throws SQLException, SourceUnavailableException, InterruptedException {
    stream.awaitVisible(decoder.takeTransactions());
    Position committed = decoder.committed();
    mine.add(decoder.takePieces(), committed, committed.number(), decoder.isOpen());
  }

  /** Where the slot starts. It is created for new readers, and for those that have their own. */
  private long start(LogStream stream)
      throws SQLException, SourceUnavailableException, InterruptedException {
    Map<String, LogStream.Slot> slots = stream.slots();
    LogStream.Slot found = slots.get(slot);
    boolean create;
    synchronized (this) {
      foundSlots.clear();
      foundSlots.addAll(slots.keySet());
      create = creates || ownSlots.stream().anyMatch(slots::containsKey);
      creates = false;
    }
    if (found != null && found.lost() && create) {
      stream.drop(slot);
    } else if (found != null) {
      return found.start();
    }
    if (!create) {
      throw new PositionLostException(
          "replication slot '%s' of source '%s' is gone".formatted(slot, source.name()));
    }
    LOG.info("source '{}': replication slot '{}' is created", source.name(), slot);
    return stream.create(slot).start();
  }

  private void confirmIfAsked(LogStream stream, String history) throws SQLException {
    if (confirms) {
      confirms = false;
      Position least = positions.least(source.name(), history, given);
      if (least != null && Long.compareUnsigned(least.number(), given) > 0) {
        given = least.number();
        stream.confirm(given);
      }
    }
  }
}
