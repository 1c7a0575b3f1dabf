package org.mnemex.sync.sqlite;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.mnemex.sync.journal.LineMark;
import org.mnemex.sync.record.KeptConnection;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Follows the journal. Waiting is almost free: SQLite's {@code PRAGMA data_version} shows whether
 * another connection has committed.
 */
final class SqliteCapture implements Source.Capture {
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final TypeReference<Map<String, Object>> COLUMNS = new TypeReference<>() {};
  private static final String DATA_VERSION = "PRAGMA data_version";
  private static final long POLL_MILLIS = 5;

  private final SqliteSource source;
  private final String reader;
  private final KeptConnection connection;
  private long schemaVersion = -1;

  SqliteCapture(SqliteSource source, String reader) {
    this.source = source;
    this.reader = reader;
    // Another file may take the name; its content decides whether we continue.
    this.connection = new KeptConnection(source, open -> open, () -> {});
  }

  @Override
  public Position now() throws SourceUnavailableException {
    return connection.use(
        c -> {
          SqliteJournal.State state = SqliteJournal.state(c);
          if (state == null) {
            throw new PositionLostException("the source has no journal");
          }
          long last = SqliteJournal.last(c);
          LineMark mark = SqliteJournal.mark(c, last);
          return new Position(state.journal(), last, mark == null ? "" : mark.toString());
        });
  }

  @Override
  public Position last() throws SourceUnavailableException {
    return now();
  }

  @Override
  public Changes after(Position position, int limit, Duration wait)
      throws SourceUnavailableException, InterruptedException {
    long deadline = System.nanoTime() + wait.toNanos();
    while (true) {
      long version = connection.use(c -> number(c, DATA_VERSION));
      Changes changes = connection.use(c -> read(c, position, limit));
      if (!changes.list().isEmpty() || changes.tablesChanged() || System.nanoTime() >= deadline) {
        return changes;
      }
      // Each time it is looked first whether the file is still the same. Asking a former one could
      // take the journal of a transaction in its successor for its own, and delete it.
      while (System.nanoTime() < deadline
          && connection.use(c -> number(c, DATA_VERSION)) == version) {
        Thread.sleep(POLL_MILLIS);
      }
    }
  }

  private Changes read(Connection connection, Position position, int limit) throws SQLException {
    SqliteJournal.State state = SqliteJournal.state(connection);
    if (state == null || !state.journal().equals(position.history())) {
      throw new PositionLostException(
          "source '"
              + source.name()
              + "' is a different database than before, or its journal was removed");
    }
    if (state.trimmed() > position.number()) {
      throw new PositionLostException(
          "the journal of source '%s' was trimmed to %d, beyond position %d"
              .formatted(source.name(), state.trimmed(), position.number()));
    }
    long schema = number(connection, "PRAGMA schema_version");
    boolean tablesChanged = schemaVersion >= 0 && schema != schemaVersion;
    schemaVersion = schema;
    LineMark.verify(connection, position, SqliteJournal.last(connection), source.name());
    List<Change> changes = new ArrayList<>();
    Position last = position;
    try (PreparedStatement select =
        connection.prepareStatement(
            "SELECT seq, table_name, columns, at FROM mnemex_journal WHERE seq > ?"
                + " ORDER BY seq LIMIT ?")) {
      select.setLong(1, position.number());
      select.setInt(2, limit);
      try (ResultSet rows = select.executeQuery()) {
        while (rows.next()) {
          long number = rows.getLong(1);
          LineMark mark =
              LineMark.of(number, rows.getString(2), rows.getString(3), rows.getLong(4));
          last = new Position(position.history(), number, mark.toString());
          changes.add(
              new Change(
                  rows.getString(2),
                  JSON.readValue(rows.getString(3), COLUMNS),
                  Instant.ofEpochMilli(rows.getLong(4)),
                  last));
        }
      }
    }
    return new Changes(changes, last, changes.size() < limit, tablesChanged);
  }

  private static long number(Connection connection, String pragma) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      return number(statement.executeQuery(pragma));
    }
  }

  private static long number(ResultSet result) throws SQLException {
    try (result) {
      return result.getLong(1);
    }
  }

  @Override
  public void done(Position position) throws SourceUnavailableException {
    connection.use(
        c -> {
          SqliteJournal.done(c, reader, LineMark.unneeded(position));
          return true;
        });
  }

  @Override
  public void leave() throws SourceUnavailableException {
    connection.use(
        c -> {
          SqliteJournal.leave(c, reader);
          return true;
        });
  }

  @Override
  public void abort() {
    connection.abort();
  }

  @Override
  public void close() {
    connection.close();
  }
}
