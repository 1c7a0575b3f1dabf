package org.mnemex.sync.shared;

import java.util.concurrent.locks.Condition;
import org.mnemex.sync.source.Position;

/** The place of a reader in a {@link ChangeWindow}, which guards it by its lock. */
public final class Cursor {
  /** There may be something to take. Its own, as each wait on one ends with a look at all. */
  final Condition more;

  /** The last piece of which it has taken everything. */
  Held at;

  /** How many changes it has taken of the next. */
  int offset;

  /** The position after what it has taken. */
  Position position;

  /** How far the source was read for what it has taken. */
  long reach;

  long hungrySince;
  boolean hungry;

  /** Whether its reader has applied everything it took, and waits for more. */
  boolean waits;

  /** Whether its reader is not to wait. */
  boolean woken;

  Cursor(Condition more, Held at, Position position, long reach) {
    this.more = more;
    this.at = at;
    this.position = position;
    this.reach = reach;
  }

  /**
   * Notes what it has taken. A position that is held back for something that this reader has
   * already does not take it back.
   */
  void advance(Position after, long reach) {
    boolean isBack = position.reaches(after) && position.number() != after.number();
    position = isBack ? position : after;
    this.reach = reach;
  }

  /** Whether it still needs a dropped piece; it then keeps none of them in memory. */
  boolean isLeftBehind(Held dropped) {
    boolean left = at.number < dropped.number;
    if (left) {
      at = new Held(null, at.number);
      more.signalAll();
    }
    return left;
  }
}
