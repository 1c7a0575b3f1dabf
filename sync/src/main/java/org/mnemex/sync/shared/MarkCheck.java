package org.mnemex.sync.shared;

import java.util.List;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;

/** Looks for the mark of a position among what was read up to it. */
@FunctionalInterface
public interface MarkCheck {
  /** Finds nothing wrong. */
  MarkCheck NONE = (position, floor, passed) -> {};

  /**
   * Looks for the mark.
   *
   * @param position where a reader wants to go on
   * @param floor from which number on everything is known
   * @param passed the positions after the floor, up to this one
   * @throws PositionLostException if something else is in its place
   */
  void check(Position position, long floor, List<Position> passed);
}
