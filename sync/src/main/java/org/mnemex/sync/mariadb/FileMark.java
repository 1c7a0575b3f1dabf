package org.mnemex.sync.mariadb;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/**
 * The end of a transaction in a log file, as the mark of its position. A restored older copy reuses
 * transaction numbers, but every start of a server starts a new file.
 *
 * @param server number of the server that wrote the file
 * @param begun when the file was started, in seconds since 1970
 * @param offset the end of the transaction, in bytes
 * @param file its name
 */
record FileMark(long server, long begun, long offset, String file) {
  private static final String SEPARATOR = "/";

  /** The mark of a position, or null if it has none. */
  static @Nullable FileMark of(Position position) {
    if (position.mark().isEmpty()) {
      return null;
    }
    String[] parts = position.mark().split(SEPARATOR, 4);
    return new FileMark(
        Long.parseLong(parts[0]), Long.parseLong(parts[1]), Long.parseLong(parts[2]), parts[3]);
  }

  /** Whether the other mark is in the same file, and not before this one. */
  boolean isIn(FileMark whole) {
    return file.equals(whole.file) && begun == whole.begun && offset <= whole.offset;
  }

  @Override
  public String toString() {
    return String.join(
        SEPARATOR, Long.toString(server), Long.toString(begun), Long.toString(offset), file);
  }
}
