package org.mnemex.sync.postgres;

import java.util.List;
import org.mnemex.sync.source.Position;

/**
 * The last transaction read from the log, as the mark of a position. The log of a restored older
 * copy has another one in its place, or none.
 *
 * @param end log sequence number after its commit; 0 if none was read yet
 * @param micros when it was committed, in microseconds since 2000
 */
record CommitMark(long end, long micros) {
  /** Nothing was read yet. */
  static final CommitMark NONE = new CommitMark(0, 0);

  private static final char SEPARATOR = '.';

  /** Parses the mark of a position. */
  static CommitMark of(Position position) {
    String text = position.mark();
    int separator = text.indexOf(SEPARATOR);
    return new CommitMark(
        Long.parseUnsignedLong(text.substring(0, separator), 16),
        Long.parseLong(text.substring(separator + 1)));
  }

  /**
   * Looks for the mark of a position among the transactions up to it.
   *
   * @param floor from which log sequence number on they are known
   * @param passed the positions after them
   * @throws org.mnemex.sync.source.PositionLostException if another one is in its place, or none
   */
  static void check(Position position, long floor, List<Position> passed) {
    CommitMark mark = position.mark().isEmpty() ? null : of(position);
    if (mark == null) {
      return;
    }
    boolean found = Long.compareUnsigned(mark.end, floor) <= 0;
    for (Position after : passed) {
      CommitMark other = of(after);
      int order = Long.compareUnsigned(other.end, mark.end);
      if (order > 0 || order == 0 && !other.equals(mark)) {
        throw LogDecoder.anotherLog(floor, position);
      }
      found |= order == 0;
    }
    if (!found) {
      throw LogDecoder.anotherLog(floor, position);
    }
  }

  @Override
  public String toString() {
    return Long.toHexString(end) + SEPARATOR + micros;
  }
}
