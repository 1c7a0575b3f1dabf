package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;

/** Captures changes by logical replication. */
final class LogMethod implements CaptureMethod {
  private final PostgresSource source;

  LogMethod(PostgresSource source) {
    this.source = source;
  }

  @Override
  public List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    return new PostgresSetup(connection, source.schema(), source.publication())
        .requirements(columnsByTable);
  }

  @Override
  public Source.Capture open(String reader) {
    return new LogCapture(source, reader);
  }

  @Override
  public List<String> removal(Connection connection, OwnReaders own) throws SQLException {
    List<String> all = new ArrayList<>();
    Set<String> inUse = own.inUse().stream().map(LogCapture::slot).collect(Collectors.toSet());
    String ours = LogCapture.slotEnd(own.installation());
    boolean others = false;
    for (SourceReader slot : readers(connection)) {
      if (!slot.name().endsWith(ours)) {
        others = true;
      } else if (!slot.active() && !inUse.contains(slot.name())) {
        all.add("SELECT pg_drop_replication_slot(" + Sql.POSTGRES.text(slot.name()) + ")");
      }
    }
    try (PreparedStatement select =
        connection.prepareStatement("SELECT 1 FROM pg_publication WHERE pubname = ?")) {
      select.setString(1, source.publication());
      try (ResultSet rows = select.executeQuery()) {
        // Another installation may use the same name for its source.
        if (rows.next() && !others) {
          all.add("DROP PUBLICATION " + Sql.POSTGRES.name(source.publication()));
        }
      }
    }
    return all;
  }

  @Override
  public List<SourceReader> readers(Connection connection) throws SQLException {
    List<SourceReader> readers = new ArrayList<>();
    try (PreparedStatement select =
            connection.prepareStatement(
                "SELECT slot_name, active,"
                    + " coalesce(pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn), 0)::bigint"
                    + " FROM pg_replication_slots WHERE database = current_database()"
                    + " AND slot_name LIKE 'mnemex!_%' ESCAPE '!' ORDER BY slot_name");
        ResultSet rows = select.executeQuery()) {
      while (rows.next()) {
        readers.add(
            new SourceReader(
                rows.getString(1),
                rows.getBoolean(2),
                Math.max(0, rows.getLong(3)),
                SourceReader.Unit.BYTES));
      }
    }
    return readers;
  }

  @Override
  public String readerName(String reader) {
    return LogCapture.slot(reader);
  }

  @Override
  public void dropReader(Connection connection, String name) throws SQLException {
    try (PreparedStatement drop =
        connection.prepareStatement("SELECT pg_drop_replication_slot(?)")) {
      drop.setString(1, name);
      drop.execute();
    }
  }
}
