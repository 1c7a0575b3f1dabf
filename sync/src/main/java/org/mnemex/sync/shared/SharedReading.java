package org.mnemex.sync.shared;

import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Reads the changes of a source once, for all readers that are near its end: one thread, one
 * capture. It runs while somebody takes from it. It decides nothing about a reader: if it fails,
 * for whatever reason, its readers go on by themselves from where they are, and find out.
 * Thread-safe.
 */
public final class SharedReading {
  private static final Logger LOG = LoggerFactory.getLogger(SharedReading.class);

  /** How many changes are handed over together. */
  private static final int PIECE = 2000;

  /** How long to wait for a change: briefly at first, so that it is soon known that all came. */
  private static final Duration FIRST_WAIT = Duration.ofMillis(5);

  private static final Duration LONGEST_WAIT = Duration.ofMillis(250);
  private static final Duration ROOM_WAIT = Duration.ofMillis(100);
  private static final Duration END_WAIT = Duration.ofSeconds(2);

  /** How long not to try again after it has failed. */
  private static final Duration REST = Duration.ofSeconds(10);

  private final String source;
  private final Supplier<Source.Capture> opening;
  private final Supplier<Set<String>> tables;
  private final WindowLimits limits;
  private final Set<SharedCapture> users = new HashSet<>();
  private @Nullable Reading current;
  private @Nullable Long failedAt;

  private record Reading(ChangeWindow window, Source.Capture capture, Thread thread) {}

  /**
   * A reading that has not begun.
   *
   * @param source name of the source
   * @param opening opens a capture that belongs to no reader
   * @param tables the watched tables
   */
  public SharedReading(
      String source,
      Supplier<Source.Capture> opening,
      Supplier<Set<String>> tables,
      WindowLimits limits) {
    this.source = source;
    this.opening = opening;
    this.tables = tables;
    this.limits = limits;
  }

  /**
   * Lets somebody take part who is at the end of the source; begins there if nobody does yet.
   *
   * @param reader what goes on in the window
   * @param position everything up to here was taken; what comes after it was committed after all
   *     that the reader needs was watched
   * @return whether it goes on there
   */
  synchronized boolean join(SharedCapture user, WindowReader reader, Position position) {
    Reading reading = current;
    if (reading == null || reading.window.hasFailed()) {
      if (failedAt != null && System.nanoTime() - failedAt < REST.toNanos()) {
        return false;
      }
      reading = begin(position);
      current = reading;
    }
    boolean in = reader.join(reading.window, position, 0, Map.of()) == ChangeWindow.Place.HERE;
    if (in) {
      users.add(user);
    }
    return in;
  }

  private Reading begin(Position position) {
    ChangeWindow window = new ChangeWindow(limits, MarkCheck.NONE);
    window.open(position, 0, Map.of());
    Source.Capture capture = opening.get();
    Thread thread =
        Thread.ofPlatform()
            .name("changes-" + source)
            .daemon()
            .unstarted(() -> read(window, capture, position));
    thread.start();
    return new Reading(window, capture, thread);
  }

  /** Somebody no longer takes anything. Nobody left means that the reading ends. */
  void leave(SharedCapture user) {
    Reading last;
    synchronized (this) {
      if (!users.remove(user) || !users.isEmpty()) {
        return;
      }
      last = current;
      current = null;
    }
    if (last == null) {
      return;
    }
    last.thread.interrupt();
    try {
      if (!last.thread.join(END_WAIT)) {
        // The server does not answer.
        last.capture.abort();
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private synchronized boolean isCurrent(ChangeWindow window) {
    return current != null && current.window == window;
  }

  private void read(ChangeWindow window, Source.Capture capture, Position start) {
    try (capture) {
      Position position = start;
      Duration wait = FIRST_WAIT;
      for (long reach = 1; isCurrent(window); reach++) {
        long asked = System.nanoTime();
        Changes changes = capture.after(position, PIECE, wait);
        position = changes.upTo();
        // Only what was cut is waited for: in a steady stream there is always more.
        boolean cut = !changes.complete() && changes.list().size() >= PIECE;
        window.add(pieces(changes, reach), position, reach, cut);
        if (changes.complete()) {
          window.sight(reach, changes.allAt() == null ? asked : changes.allAt());
        }
        boolean idle = changes.list().isEmpty();
        wait = idle ? shorter(wait.multipliedBy(2), LONGEST_WAIT) : FIRST_WAIT;
        while (!window.makeRoom(ROOM_WAIT) && isCurrent(window)) {
          // A slow reader is waited for.
        }
      }
    } catch (InterruptedException e) {
      window.fail(new SourceUnavailableException("changes are no longer read", e));
    } catch (SourceUnavailableException | RuntimeException e) {
      failed(window, e);
      window.fail(e);
    }
  }

  /** Notes a failure; that a reading was interrupted because nobody takes part is none. */
  private synchronized void failed(ChangeWindow window, Exception why) {
    if (isCurrent(window)) {
      LOG.info("source '{}': each index reads changes for itself: {}", source, why.getMessage());
      failedAt = System.nanoTime();
    }
  }

  private static Duration shorter(Duration one, Duration other) {
    return one.compareTo(other) < 0 ? one : other;
  }

  private List<Piece> pieces(Changes changes, long reach) {
    if (changes.list().isEmpty() && !changes.tablesChanged()) {
      return List.of();
    }
    long last =
        changes.list().stream()
            .map(Change::position)
            .mapToLong(Position::number)
            .reduce((one, other) -> Long.compareUnsigned(one, other) < 0 ? other : one)
            .orElse(changes.upTo().number());
    Set<String> redefined = changes.tablesChanged() ? Set.copyOf(tables.get()) : Set.of();
    return List.of(new Piece(changes.list(), last, changes.upTo(), reach, redefined, Set.of()));
  }
}
