package org.mnemex.sync.postgres;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;

/**
 * A transaction of the log, or a piece of a large one.
 *
 * @param changes changes of watched columns; may be empty
 * @param commit log sequence number of the transaction's commit
 * @param after the position after the transaction; null if it continues in the next piece
 * @param redefined tables that the log has described again, before the changes
 * @param emptied tables that were truncated
 */
record LogPiece(
    List<Change> changes,
    long commit,
    @Nullable Position after,
    Set<String> redefined,
    Set<String> emptied) {
  /** Whether a position is after the transaction. */
  boolean isBefore(Position position) {
    return Long.compareUnsigned(commit, position.number()) < 0;
  }

  /** Whether it says anything about watched tables. */
  boolean hasContent() {
    return !changes.isEmpty() || !redefined.isEmpty() || !emptied.isEmpty();
  }

  /** A piece while it is decoded. */
  static final class Draft {
    private final List<Change> changes = new ArrayList<>();
    private Set<String> redefined = Set.of();
    private Set<String> emptied = Set.of();

    void add(Change change) {
      changes.add(change);
    }

    void redefined(String table) {
      redefined = with(redefined, table);
    }

    void emptied(String table) {
      emptied = with(emptied, table);
    }

    private static Set<String> with(Set<String> tables, String table) {
      Set<String> all = new HashSet<>(tables);
      all.add(table);
      return Set.copyOf(all);
    }

    boolean hasContent() {
      return !changes.isEmpty() || !redefined.isEmpty() || !emptied.isEmpty();
    }

    LogPiece piece(long commit, @Nullable Position after) {
      return new LogPiece(List.copyOf(changes), commit, after, redefined, emptied);
    }
  }
}
