package org.mnemex.sync.source;

import java.util.List;

/**
 * A batch of changes in order.
 *
 * @param list the changes; may be empty
 * @param upTo the position after them
 * @param complete whether these were all available changes
 * @param tablesChanged whether tables themselves may have changed, to be checked before the changes
 *     are applied
 */
public record Changes(List<Change> list, Position upTo, boolean complete, boolean tablesChanged) {
  /** Changes of rows only. */
  public Changes(List<Change> list, Position upTo, boolean complete) {
    this(list, upTo, complete, false);
  }
}
