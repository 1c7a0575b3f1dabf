package org.mnemex.sync.shared;

import java.time.Duration;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Reached;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Follows changes for one reader: by a capture of its own until it has caught up with the source,
 * and from then on through what is read for all, while that has what it needs.
 *
 * <p>Joining misses nothing. The number of a change tells which positions include it, so a reader
 * goes on with the first piece that has a change beyond its position; changes that come twice do no
 * harm. All columns that it needs were watched before it looked for the end of the source, so
 * before anything was committed that it takes from the others.
 */
public final class SharedCapture implements Source.Capture {
  /** While it reads for itself it cannot be woken. */
  private static final Duration LONGEST_OWN_WAIT = Duration.ofMillis(250);

  private final SharedReading reading;
  private final Source.Capture own;
  private final WindowReader shared;
  private @Nullable Position next;
  private boolean joined;

  /**
   * A capture that reads for itself at first.
   *
   * @param own its own way to follow changes
   * @param columns the columns that it needs, by table
   */
  public SharedCapture(
      SharedReading reading, Source.Capture own, Map<String, Set<String>> columns) {
    this.reading = reading;
    this.own = own;
    this.shared = new WindowReader(columns);
  }

  @Override
  public Position now() throws SourceUnavailableException {
    return own.now();
  }

  @Override
  public void continueFrom(Position position) {
    own.continueFrom(position);
  }

  @Override
  public Position last() throws SourceUnavailableException {
    return own.last();
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    if (!position.equals(next)) {
      leaveOthers();
    }
    Changes changes = shared.isIn() ? fromOthers(limit, wait) : null;
    if (changes == null) {
      boolean isLong = wait.compareTo(LONGEST_OWN_WAIT) > 0;
      changes = own.after(position, limit, isLong ? LONGEST_OWN_WAIT : wait);
      if (changes.complete() && reading.join(this, shared, changes.upTo())) {
        own.close();
        joined = true;
      }
    }
    next = changes.upTo();
    return changes;
  }

  /** The next changes that were read for all; null if this reader has to read for itself again. */
  private @Nullable Changes fromOthers(int limit, Duration wait) throws InterruptedException {
    try {
      Changes changes = shared.after(limit, wait);
      if (changes == null) {
        leaveOthers();
        return null;
      }
      // Between its own last look and theirs a table may have been changed.
      boolean tablesChanged = changes.tablesChanged() || joined;
      joined = false;
      return new Changes(
          changes.list(), changes.upTo(), changes.complete(), tablesChanged, changes.allAt());
    } catch (InterruptedException e) {
      throw e;
    } catch (Exception e) {
      // Whether that concerns this reader, its own capture finds out.
      leaveOthers();
      return null;
    }
  }

  private void leaveOthers() {
    shared.leave();
    reading.leave(this);
    next = null;
  }

  @Override
  public @Nullable Reached reached() {
    return shared.reached();
  }

  @Override
  public void wake() {
    shared.wake();
  }

  @Override
  public void done(Position position) throws SourceUnavailableException {
    own.done(position);
    if (shared.isIn()) {
      own.close();
    }
  }

  @Override
  public void leave() throws SourceUnavailableException {
    leaveOthers();
    own.leave();
  }

  @Override
  public void abort() {
    own.abort();
    shared.wake();
  }

  @Override
  public void close() {
    leaveOthers();
    own.close();
  }
}
