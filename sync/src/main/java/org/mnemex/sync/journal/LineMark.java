package org.mnemex.sync.journal;

import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.zip.CRC32C;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;

/**
 * The last line of a journal that a reader was handed, as the mark of its position. When an older
 * copy of the database is restored, numbers are given again, but to other lines; a reader that
 * comes back finds the line of its mark missing or another one in its place.
 *
 * @param number of the line
 * @param checksum CRC-32C of what the line says
 */
public record LineMark(long number, int checksum) {
  private static final char SEPARATOR = '.';

  /** The mark of a line. */
  public static LineMark of(long number, String table, String columns, long at) {
    CRC32C crc = new CRC32C();
    crc.update((table + "\n" + columns + "\n" + at).getBytes(StandardCharsets.UTF_8));
    return new LineMark(number, (int) crc.getValue());
  }

  private static LineMark parse(String text) {
    int separator = text.indexOf(SEPARATOR);
    return new LineMark(
        Long.parseLong(text.substring(0, separator)),
        Integer.parseUnsignedInt(text.substring(separator + 1), 16));
  }

  @Override
  public String toString() {
    return number + String.valueOf(SEPARATOR) + Integer.toHexString(checksum);
  }

  /**
   * Compares a position's mark with the journal.
   *
   * @param last the highest number that the journal has given, as far as it can tell
   * @throws PositionLostException if the journal is not the one that the position was taken in
   */
  public static void verify(Connection connection, Position position, long last, String source)
      throws SQLException {
    if (last < position.number()) {
      throw restored(
          source, "its journal ends at %d, before %d".formatted(last, position.number()));
    }
    if (position.mark().isEmpty()) {
      return;
    }
    LineMark mark = parse(position.mark());
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT table_name, columns, at FROM mnemex_journal WHERE seq = ?")) {
      select.setLong(1, mark.number);
      try (ResultSet rows = select.executeQuery()) {
        if (!rows.next()) {
          throw restored(source, "its journal no longer has line %d".formatted(mark.number));
        }
        if (!of(mark.number, rows.getString(1), rows.getString(2), rows.getLong(3)).equals(mark)) {
          throw restored(source, "line %d of its journal differs".formatted(mark.number));
        }
      }
    }
  }

  private static PositionLostException restored(String source, String why) {
    return new PositionLostException(
        "source '%s' is not the same database as before; perhaps an older copy was restored: %s"
            .formatted(source, why));
  }

  /** Up to which number a reader at a position needs no lines: all before the one of its mark. */
  public static long unneeded(Position position) {
    return position.mark().isEmpty()
        ? position.number()
        : Math.min(position.number(), parse(position.mark()).number - 1);
  }
}
