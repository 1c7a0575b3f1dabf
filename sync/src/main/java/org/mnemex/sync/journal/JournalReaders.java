package org.mnemex.sync.journal;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.List;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.SourceReader;

/** Who needs the lines of a journal. */
public final class JournalReaders {
  private JournalReaders() {}

  /** All readers, with the lines that are kept for them. */
  public static List<SourceReader> of(Connection connection) throws SQLException {
    return JournalTables.readers(connection);
  }

  /** Forgets a reader. */
  public static void drop(Connection connection, String reader) throws SQLException {
    try (PreparedStatement forget =
        connection.prepareStatement("DELETE FROM mnemex_journal_reader WHERE reader = ?")) {
      forget.setString(1, reader);
      forget.executeUpdate();
    }
  }

  /** The statements that forget the readers of an installation that nobody feeds. */
  public static List<String> removal(Connection connection, OwnReaders own, Sql sql)
      throws SQLException {
    return of(connection).stream()
        .filter(reader -> own.isLeftOver(reader.name()))
        .map(
            reader -> "DELETE FROM mnemex_journal_reader WHERE reader = " + sql.text(reader.name()))
        .toList();
  }

  /** Whether somebody else needs the journal. */
  public static boolean isNeededByOthers(Connection connection, OwnReaders own)
      throws SQLException {
    return of(connection).stream()
        .anyMatch(reader -> own.isForeign(reader.name()) || own.inUse().contains(reader.name()));
  }
}
