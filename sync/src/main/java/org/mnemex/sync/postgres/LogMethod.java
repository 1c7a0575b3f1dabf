package org.mnemex.sync.postgres;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.record.Sql;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;

/** Changes by logical replication. */
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
  public List<String> removal(Connection connection) throws SQLException {
    List<String> all = new ArrayList<>();
    try (PreparedStatement select =
            connection.prepareStatement(
                "SELECT slot_name FROM pg_replication_slots WHERE database = current_database()"
                    + " AND slot_name LIKE 'mnemex!_%' ESCAPE '!' AND NOT active");
        ResultSet rows = select.executeQuery()) {
      while (rows.next()) {
        all.add("SELECT pg_drop_replication_slot(" + Sql.POSTGRES.text(rows.getString(1)) + ")");
      }
    }
    try (PreparedStatement select =
        connection.prepareStatement("SELECT 1 FROM pg_publication WHERE pubname = ?")) {
      select.setString(1, source.publication());
      try (ResultSet rows = select.executeQuery()) {
        if (rows.next()) {
          all.add("DROP PUBLICATION " + Sql.POSTGRES.name(source.publication()));
        }
      }
    }
    return all;
  }
}
