package org.mnemex.sync.mariadb;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Position;

/**
 * The place in a file of the log where a transaction ends, as the mark of its position. A server
 * gives transactions the same numbers again when an older copy of it was restored; but it begins a
 * new file at every start.
 *
 * @param server number of the server that wrote the file
 * @param begun when the file was begun, in seconds since 1970
 * @param offset behind the transaction, in bytes
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

  /** Whether the other marks the same file, and a place in it that is not before this one. */
  boolean isIn(FileMark whole) {
    return file.equals(whole.file) && begun == whole.begun && offset <= whole.offset;
  }

  @Override
  public String toString() {
    return String.join(
        SEPARATOR, Long.toString(server), Long.toString(begun), Long.toString(offset), file);
  }
}
