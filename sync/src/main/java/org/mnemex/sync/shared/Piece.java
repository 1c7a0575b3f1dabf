package org.mnemex.sync.shared;

import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;

/**
 * Changes that were read together: a transaction, several, or a piece of a large one.
 *
 * @param changes changes of watched columns; may be empty
 * @param includedFrom the least number of a position that includes all of them
 * @param after the position after them; null if a transaction continues in the next piece
 * @param reach how far the source was read for it, see {@link ChangeWindow}
 * @param redefined tables that may have been changed themselves, before the changes
 * @param emptied tables that were truncated
 */
public record Piece(
    List<Change> changes,
    long includedFrom,
    @Nullable Position after,
    long reach,
    Set<String> redefined,
    Set<String> emptied) {
  /** Whether a position includes it. */
  boolean isIn(Position position) {
    return Long.compareUnsigned(includedFrom, position.number()) <= 0;
  }

  /** Whether it says anything about watched tables. */
  boolean hasContent() {
    return !changes.isEmpty() || !redefined.isEmpty() || !emptied.isEmpty();
  }

  /**
   * A part of it.
   *
   * @param from the first change
   * @param to after the last change
   */
  Piece part(int from, int to) {
    return new Piece(
        changes.subList(from, to),
        includedFrom,
        to == changes.size() ? after : null,
        reach,
        from == 0 ? redefined : Set.of(),
        from == 0 ? emptied : Set.of());
  }
}
