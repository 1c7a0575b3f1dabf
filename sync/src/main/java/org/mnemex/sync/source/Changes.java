package org.mnemex.sync.source;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A batch of changes in order.
 *
 * @param list the changes; may be empty
 * @param upTo the position after them
 * @param complete whether these were all available changes
 * @param tablesChanged whether tables themselves may have changed, to be checked before the changes
 *     are applied
 * @param allAt a moment, by {@link System#nanoTime}, at which everything up to the position was all
 *     there was; null if that is only known when they are complete, and then since they were asked
 *     for
 */
public record Changes(
    List<Change> list,
    Position upTo,
    boolean complete,
    boolean tablesChanged,
    @Nullable Long allAt) {
  /** Changes of rows only. */
  public Changes(List<Change> list, Position upTo, boolean complete) {
    this(list, upTo, complete, false);
  }

  /** Changes of which it is only known whether they are complete. */
  public Changes(List<Change> list, Position upTo, boolean complete, boolean tablesChanged) {
    this(list, upTo, complete, tablesChanged, null);
  }
}
