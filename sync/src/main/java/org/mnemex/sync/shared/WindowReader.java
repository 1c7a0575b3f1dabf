package org.mnemex.sync.shared;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Reached;

/**
 * Takes from a {@link ChangeWindow} what one reader needs. Used by the reader's thread, but for
 * {@link #reached} and {@link #wake}.
 */
public final class WindowReader {
  /** How long to wait for the rest of a transaction, which is on its way. */
  private static final Duration REST_WAIT = Duration.ofSeconds(1);

  private final Map<String, Set<String>> columns;
  private volatile @Nullable Place place;

  private record Place(ChangeWindow window, Cursor cursor) {}

  /**
   * A reader that is in no window yet.
   *
   * @param columns the columns that it needs, by table
   */
  public WindowReader(Map<String, Set<String>> columns) {
    this.columns = columns;
  }

  /**
   * Goes on in a window if that is possible, as {@link ChangeWindow#join}.
   *
   * @param checked columns that may not have been watched all the time, by table
   */
  public ChangeWindow.Place join(
      ChangeWindow window, Position position, long reach, Map<String, Set<String>> checked) {
    return window.join(position, reach, checked, cursor -> place = new Place(window, cursor));
  }

  /**
   * The same, after waiting for the source to be read up to the position.
   *
   * @param wait how long at most
   */
  public ChangeWindow.Place join(
      ChangeWindow window,
      Position position,
      long reach,
      Map<String, Set<String>> checked,
      Duration wait)
      throws InterruptedException {
    return window.join(position, reach, checked, cursor -> place = new Place(window, cursor), wait);
  }

  /** Whether it is in a window. */
  public boolean isIn() {
    return place != null;
  }

  /**
   * The next changes.
   *
   * @return null if what comes next is no longer in the window, which it has left then
   * @throws PositionLostException if a table was truncated
   * @throws Exception why the window has failed
   */
  public @Nullable Changes after(int limit, Duration wait) throws Exception {
    Place here = Objects.requireNonNull(place);
    List<Change> changes = new ArrayList<>();
    boolean tablesChanged = false;
    Position upTo = null;
    Taken taken = here.window.take(here.cursor, limit, wait);
    while (taken != null) {
      for (Piece piece : taken.pieces()) {
        tablesChanged |= addNeeded(piece, columns, changes);
      }
      upTo = taken.upTo();
      if (taken.pieces().isEmpty() || changes.size() >= limit) {
        return new Changes(changes, upTo, taken.complete(), tablesChanged, taken.allAt());
      }
      Duration rest = taken.cut() ? REST_WAIT : Duration.ZERO;
      taken = here.window.takeMore(here.cursor, limit - changes.size(), rest);
    }
    place = null;
    return upTo == null ? null : new Changes(changes, upTo, false, tablesChanged);
  }

  /**
   * Adds the changes of a piece that are needed.
   *
   * @param columns the columns that are needed, by table
   * @return whether a table may have been changed itself
   * @throws PositionLostException if a table was truncated
   */
  public static boolean addNeeded(
      Piece piece, Map<String, Set<String>> columns, List<Change> changes) {
    for (Change change : piece.changes()) {
      if (columns.containsKey(change.table())) {
        changes.add(change);
      }
    }
    for (String table : piece.emptied()) {
      if (columns.containsKey(table)) {
        throw new PositionLostException("table '" + table + "' was truncated");
      }
    }
    return piece.redefined().stream().anyMatch(columns::containsKey);
  }

  /** How far it is while it waits, as {@link ChangeWindow#reached}. Thread-safe. */
  public @Nullable Reached reached() {
    Place here = place;
    return here == null ? null : here.window.reached(here.cursor);
  }

  /** Ends its current wait, or the next. Thread-safe. */
  public void wake() {
    Place here = place;
    if (here != null) {
      here.window.wake(here.cursor);
    }
  }

  /** Leaves the window. */
  public void leave() {
    Place here = place;
    if (here != null) {
      here.window.leave(here.cursor);
    }
    place = null;
  }
}
