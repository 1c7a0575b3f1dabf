package org.mnemex.sync.journal;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.SourceReader;

/**
 * The journal's tables, in words that every server understands.
 *
 * <pre>
 * mnemex_journal         seq (given before the commit, with gaps), table_name, columns, at
 * mnemex_journal_state   the journal's identity and up to where it was trimmed
 * mnemex_journal_reader  who still needs what, and the last number when it joined
 * mnemex_journal_table   for each watched table the columns that its triggers write
 * </pre>
 */
final class JournalTables {
  private static final int PORTION = 2000;

  private JournalTables() {}

  /**
   * The journal's identity and how far it was trimmed.
   *
   * @param journal a random name given when it was made
   * @param trimmed changes up to this number are gone
   * @param joined the last number when the reader joined; what is below it was done before it read
   */
  record State(String journal, long trimmed, long joined) {}

  static @Nullable State state(Connection connection, String reader) throws SQLException {
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT s.journal, s.trimmed, r.joined FROM mnemex_journal_state s"
                + " LEFT JOIN mnemex_journal_reader r ON r.reader = ?")) {
      select.setString(1, reader);
      try (ResultSet rows = select.executeQuery()) {
        return rows.next() ? new State(rows.getString(1), rows.getLong(2), rows.getLong(3)) : null;
      }
    }
  }

  /** The highest number that is visible. */
  static long last(Connection connection) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT max(seq) FROM mnemex_journal")) {
      return rows.next() ? rows.getLong(1) : 0;
    }
  }

  /** Notes up to where a reader needs nothing any more, and removes what no reader needs. */
  static void done(Connection connection, String reader, long number) throws SQLException {
    inTransaction(
        connection,
        () -> {
          note(connection, reader, number);
          trim(connection);
        });
  }

  /**
   * Makes a reader known that will read everything there is. If it is the only one, what was
   * committed until now is for nobody and goes.
   */
  static void join(Connection connection, String reader, long number) throws SQLException {
    inTransaction(
        connection,
        () -> {
          leave(connection, reader);
          try (PreparedStatement insert =
              connection.prepareStatement(
                  "INSERT INTO mnemex_journal_reader (reader, position, joined) VALUES (?, ?, ?)")) {
            insert.setString(1, reader);
            insert.setLong(2, number);
            insert.setLong(3, last(connection));
            insert.executeUpdate();
          }
          try (PreparedStatement alone =
              connection.prepareStatement(
                  "SELECT count(*) FROM mnemex_journal_reader WHERE reader <> ?")) {
            alone.setString(1, reader);
            try (ResultSet rows = alone.executeQuery()) {
              if (rows.next() && rows.getLong(1) == 0) {
                remove(connection, Long.MAX_VALUE);
              }
            }
          }
        });
  }

  /**
   * Removes what is committed up to a number; whether there was anything. By single numbers: a
   * range would also ask for the lock of the line after it, which may be of a transaction that is
   * open.
   */
  private static boolean remove(Connection connection, long upTo) throws SQLException {
    boolean any = false;
    while (true) {
      List<Long> numbers = new ArrayList<>();
      try (PreparedStatement select =
          connection.prepareStatement(
              "SELECT seq FROM mnemex_journal WHERE seq <= ? ORDER BY seq LIMIT " + PORTION)) {
        select.setLong(1, upTo);
        try (ResultSet rows = select.executeQuery()) {
          while (rows.next()) {
            numbers.add(rows.getLong(1));
          }
        }
      }
      if (numbers.isEmpty()) {
        return any;
      }
      any = true;
      try (PreparedStatement delete =
          connection.prepareStatement("DELETE FROM mnemex_journal WHERE seq = ?")) {
        for (long number : numbers) {
          delete.setLong(1, number);
          delete.addBatch();
        }
        delete.executeBatch();
      }
    }
  }

  /** Forgets a reader. */
  static void leave(Connection connection, String reader) throws SQLException {
    try (PreparedStatement forget =
        connection.prepareStatement("DELETE FROM mnemex_journal_reader WHERE reader = ?")) {
      forget.setString(1, reader);
      forget.executeUpdate();
    }
  }

  private static void note(Connection connection, String reader, long number) throws SQLException {
    try (PreparedStatement update =
        connection.prepareStatement(
            "UPDATE mnemex_journal_reader SET position = ? WHERE reader = ?")) {
      update.setLong(1, number);
      update.setString(2, reader);
      if (update.executeUpdate() > 0) {
        return;
      }
    }
    // Somebody has removed it; what it has read is past all that came before.
    try (PreparedStatement insert =
        connection.prepareStatement(
            "INSERT INTO mnemex_journal_reader (position, joined, reader) VALUES (?, ?, ?)")) {
      insert.setLong(1, number);
      insert.setLong(2, number);
      insert.setString(3, reader);
      insert.executeUpdate();
    }
  }

  private static void trim(Connection connection) throws SQLException {
    long needed;
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery("SELECT min(position) FROM mnemex_journal_reader")) {
      rows.next();
      needed = rows.getLong(1);
    }
    if (remove(connection, needed)) {
      try (PreparedStatement state =
          connection.prepareStatement(
              "UPDATE mnemex_journal_state SET trimmed = ? WHERE trimmed < ?")) {
        state.setLong(1, needed);
        state.setLong(2, needed);
        state.executeUpdate();
      }
    }
  }

  private static void inTransaction(Connection connection, Work work) throws SQLException {
    connection.setAutoCommit(false);
    try {
      work.run();
      connection.commit();
    } catch (SQLException e) {
      connection.rollback();
      throw e;
    } finally {
      connection.setAutoCommit(true);
    }
  }

  /** All readers, with the lines that are kept for them. */
  static List<SourceReader> readers(Connection connection) throws SQLException {
    List<SourceReader> readers = new ArrayList<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                "SELECT r.reader, (SELECT count(*) FROM mnemex_journal j WHERE j.seq > r.position)"
                    + " FROM mnemex_journal_reader r ORDER BY r.reader")) {
      while (rows.next()) {
        readers.add(
            new SourceReader(rows.getString(1), false, rows.getLong(2), SourceReader.Unit.CHANGES));
      }
    }
    return readers;
  }

  @FunctionalInterface
  private interface Work {
    void run() throws SQLException;
  }
}
