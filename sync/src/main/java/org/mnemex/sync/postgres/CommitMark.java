package org.mnemex.sync.postgres;

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

  @Override
  public String toString() {
    return Long.toHexString(end) + SEPARATOR + micros;
  }
}
