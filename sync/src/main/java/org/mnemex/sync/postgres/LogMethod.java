package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;
import org.postgresql.replication.LogSequenceNumber;

/** Captures changes by logical replication. */
final class LogMethod implements CaptureMethod {
  private final PostgresSource source;
  private final ReaderPositions positions;

  LogMethod(PostgresSource source, ReaderPositions positions) {
    this.source = source;
    this.positions = positions;
  }

  @Override
  public List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    return new PostgresSetup(connection, source.schema(), source.publication())
        .requirements(columnsByTable);
  }

  @Override
  public Source.Capture open(String reader, Map<String, Set<String>> columnsByTable) {
    return new LogCapture(source, source.receiver(reader), positions, reader, columnsByTable);
  }

  @Override
  public List<String> removal(Connection connection, OwnReaders own) throws SQLException {
    List<String> all = new ArrayList<>();
    Set<String> inUse = own.inUse().stream().map(SlotNames::slot).collect(Collectors.toSet());
    String shared = SlotNames.shared(source.name(), own.installation());
    if (positions.isNeeded(source.name())) {
      inUse.add(shared);
    }
    String ours = SlotNames.end(own.installation());
    boolean others = false;
    for (SourceReader slot : readers(connection)) {
      // The slot of another source over the same database is that source's matter.
      boolean another = SlotNames.isShared(slot.name()) && !slot.name().equals(shared);
      if (!slot.name().endsWith(ours)) {
        others = true;
      } else if (!another && !slot.active() && !inUse.contains(slot.name())) {
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
                    + " AND NOT temporary"
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
    return source.receiver(reader).slot();
  }

  @Override
  public Map<String, SourceReader> retained(Connection connection, Set<String> readers)
      throws SQLException {
    Map<String, SourceReader> slots = new HashMap<>();
    readers(connection).forEach(slot -> slots.put(slot.name(), slot));
    Map<String, SourceReader> retained = new HashMap<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT pg_current_wal_lsn()")) {
      rows.next();
      long written = LogSequenceNumber.valueOf(rows.getString(1)).asLong();
      for (String reader : readers) {
        LogReceiver receiver = source.receiver(reader);
        SourceReader slot = slots.getOrDefault(SlotNames.slot(reader), slots.get(receiver.slot()));
        if (slot != null) {
          // What the slowest reader needs is kept for all; each is told what it needs itself.
          Position position = positions.of(source.name(), reader);
          retained.put(
              reader,
              new SourceReader(
                  slot.name(),
                  receiver.isUsedBy(reader),
                  position == null ? slot.retained() : Math.max(0, written - position.number()),
                  slot.unit()));
        }
      }
    }
    return retained;
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
