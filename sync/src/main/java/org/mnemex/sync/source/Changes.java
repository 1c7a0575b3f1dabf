package org.mnemex.sync.source;

import java.util.List;

/**
 * Some changes in order.
 *
 * @param list may be empty
 * @param upTo the position after all of {@code list} is applied
 * @param complete whether these are all changes that there were when they were asked for
 * @param tablesChanged whether tables themselves may have changed, which should be looked at before
 *     the changes are applied
 */
public record Changes(List<Change> list, Position upTo, boolean complete, boolean tablesChanged) {
  /** Changes of rows only. */
  public Changes(List<Change> list, Position upTo, boolean complete) {
    this(list, upTo, complete, false);
  }
}
