package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.source.TableIdentity;
import org.mnemex.sync.source.TableNotes;

/** What the reader of records needs from a database. */
public interface SqlDatabase {
  /** A new connection; to be closed by the caller. */
  Connection connect() throws SourceUnavailableException;

  /**
   * Identifies the database that a new connection leads to. Connections from before a change no
   * longer lead to the source.
   */
  default Object identity() throws SourceUnavailableException {
    return "";
  }

  /**
   * A way to read through connections of this database.
   *
   * @param givenUp runs when what was learned through a connection may not hold for the next one
   */
  default Connections connections(Runnable givenUp) {
    return new KeptConnection(this, open -> open, givenUp);
  }

  /**
   * Aborts a connection. Returns at once: closing an encrypted connection waits for an answer of
   * the server, up to the socket timeout.
   */
  static void abort(@Nullable Connection connection) {
    if (connection != null) {
      Thread.ofPlatform().name("abort").daemon().start(() -> abortNow(connection));
    }
  }

  private static void abortNow(Connection connection) {
    try {
      connection.abort(Runnable::run);
    } catch (SQLException e) {
      // The connection is discarded in any case.
      return;
    }
  }

  /** Closes a connection, or a part of one, that is no longer needed; errors no longer matter. */
  static void discard(@Nullable AutoCloseable resource) {
    if (resource != null) {
      try {
        resource.close();
      } catch (Exception e) {
        return;
      }
    }
  }

  /** An error message with the database's name. */
  SourceUnavailableException unavailable(SQLException cause);

  Catalogue catalogue(Connection connection) throws SQLException;

  /** Foreign keys and comments of some tables. */
  Map<String, TableNotes> notes(Connection connection, Set<String> tables) throws SQLException;

  /** Identities of tables, as far as the database has them, to detect replaced tables. */
  default Map<String, TableIdentity> identities(Connection connection, Set<String> tables)
      throws SQLException {
    return Map.of();
  }

  /** The database's estimate of a table's rows without counting; 0 if it has none. */
  long estimate(Connection connection, String table) throws SQLException;

  Sql sql();

  /** Starts a transaction in which every query sees the same state. Ended by a rollback. */
  void beginReading(Connection connection) throws SQLException;

  /**
   * How to read a column of a result.
   *
   * @param column from 1
   */
  ValueReader valueReader(ResultSetMetaData columns, int column) throws SQLException;

  /** The form of times in columns of a type. */
  enum TimeType {
    /** An instant, independent of the session's zone. */
    UTC,
    /** A date and time without a zone. */
    LOCAL,
    /** Not determined by the type; values may tell. */
    UNTYPED,
    /** Not a time. */
    NONE
  }

  /**
   * The form of times in columns of a type.
   *
   * @param type in lower case, as the catalogue names it
   */
  default TimeType timeType(String type) {
    return type.startsWith("timestamp")
        ? TimeType.UTC
        : type.startsWith("datetime") ? TimeType.LOCAL : TimeType.NONE;
  }

  /**
   * Reads a value in the form of records: text, whole number, boolean or a list of these; or bytes,
   * which records cannot contain.
   */
  @FunctionalInterface
  interface ValueReader {
    @Nullable Object read(ResultSet rows, int column) throws SQLException;
  }
}
