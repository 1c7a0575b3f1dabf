package org.mnemex.sync.shared;

import org.jspecify.annotations.Nullable;

/** A piece in the list of a {@link ChangeWindow}. */
final class Held {
  final @Nullable Piece piece;
  final long number;
  @Nullable Held next;

  /**
   * @param piece null if it is no longer held
   * @param number counts the pieces
   */
  Held(@Nullable Piece piece, long number) {
    this.piece = piece;
    this.number = number;
  }

  int size() {
    return piece == null ? 0 : piece.changes().size() + 1;
  }
}
