package org.mnemex.sync.sqlite;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.journal.JournalReaders;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;

/** Captures changes with a journal in the database file. */
final class SqliteJournalMethod implements CaptureMethod {
  private final SqliteSource source;

  SqliteJournalMethod(SqliteSource source) {
    this.source = source;
  }

  @Override
  public List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    List<String> missing = SqliteJournal.missing(connection, columnsByTable);
    return List.of(
        new Requirement(
            "journal and triggers for the tables " + String.join(", ", columnsByTable.keySet()),
            missing.isEmpty(),
            missing.stream().map(sql -> sql + ";").toList(),
            Requirement.Kind.PREPARABLE));
  }

  @Override
  public Source.Capture open(String reader, Map<String, Set<String>> columnsByTable) {
    return new SqliteCapture(source, reader);
  }

  @Override
  public boolean canReadForAll() {
    return true;
  }

  @Override
  public List<SourceReader> readers(Connection connection) throws SQLException {
    return SqliteJournal.state(connection) == null ? List.of() : JournalReaders.of(connection);
  }

  @Override
  public void dropReader(Connection connection, String name) throws SQLException {
    JournalReaders.drop(connection, name);
  }

  @Override
  public List<String> removal(Connection connection, OwnReaders own) throws SQLException {
    return SqliteJournal.state(connection) != null
            && JournalReaders.isNeededByOthers(connection, own)
        ? JournalReaders.removal(connection, own, Sql.SQLITE)
        : SqliteJournal.removal(connection);
  }
}
