package org.mnemex.sync.postgres;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.shared.Piece;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Position;

/** A piece of the log while it is decoded. */
final class PieceDraft {
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

  /**
   * The piece.
   *
   * @param commit log sequence number of the transaction's commit; positions are after it
   * @param after the position after the transaction; null if it continues in the next piece
   */
  Piece piece(long commit, @Nullable Position after) {
    long reach = after == null ? commit : after.number();
    return new Piece(List.copyOf(changes), commit + 1, after, reach, redefined, emptied);
  }
}
