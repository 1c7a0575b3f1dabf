package org.mnemex.sync.shared;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/** The pieces of a {@link ChangeWindow}, which guards them by its lock, oldest first. */
final class HeldPieces {
  /** The last piece that is no longer held. */
  private Held before = new Held(null, 0);

  private Held last = before;
  private long size;

  /** From which number on everything is here: a reader before it has missed something. */
  private long floor;

  /** Begins at a number. */
  void begin(long number) {
    floor = number;
  }

  void add(Piece piece) {
    Held held = new Held(piece, last.number + 1);
    last.next = held;
    last = held;
    size += held.size();
  }

  /** Changes and pieces. */
  long size() {
    return size;
  }

  /** The oldest piece; null if there is none. */
  @Nullable Held oldest() {
    return before.next;
  }

  boolean endsAt(Held held) {
    return last == held;
  }

  /** Whether everything after a position is here, or still to come. */
  boolean reachBackTo(Position position) {
    return Long.compareUnsigned(position.number(), floor) >= 0;
  }

  /** Drops the oldest piece. */
  void drop(Held oldest) {
    Piece piece = oldest.piece;
    if (piece != null) {
      raiseFloor(piece.includedFrom());
      Position after = piece.after();
      if (after != null) {
        raiseFloor(after.number());
      }
    }
    size -= oldest.size();
    before = oldest;
  }

  private void raiseFloor(long number) {
    if (Long.compareUnsigned(number, floor) > 0) {
      floor = number;
    }
  }

  /**
   * The last piece before the first that a position does not include.
   *
   * @param marks looks whether the position is in the same source
   */
  Held skip(Position position, MarkCheck marks) {
    List<Position> passed = new ArrayList<>();
    Held at = before;
    for (Held next = at.next; next != null; next = next.next) {
      Piece piece = next.piece;
      if (piece == null || !piece.isIn(position)) {
        break;
      }
      Position after = piece.after();
      if (after != null) {
        passed.add(after);
      }
      at = next;
    }
    marks.check(position, floor, passed);
    return at;
  }
}
