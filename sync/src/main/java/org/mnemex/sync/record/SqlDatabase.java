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

/** A database as the reader of records needs it. */
public interface SqlDatabase {
  /** A new connection; to be closed by the caller. */
  Connection connect() throws SourceUnavailableException;

  /**
   * What a new connection leads to. A connection that was opened when this was something else leads
   * to what is no longer the source.
   */
  default Object identity() throws SourceUnavailableException {
    return "";
  }

  /** Cuts a connection, whatever it is waiting for. */
  static void abort(@Nullable Connection connection) {
    if (connection != null) {
      try {
        connection.abort(Runnable::run);
      } catch (SQLException e) {
        // It is given up in any case.
        return;
      }
    }
  }

  /** What went wrong, with the database's name. */
  SourceUnavailableException unavailable(SQLException cause);

  Catalogue catalogue(Connection connection) throws SQLException;

  /** What the database says of some tables besides their columns. */
  Map<String, TableNotes> notes(Connection connection, Set<String> tables) throws SQLException;

  /** What tells tables from others that have their names later, as far as the database can. */
  default Map<String, TableIdentity> identities(Connection connection, Set<String> tables)
      throws SQLException {
    return Map.of();
  }

  /** How many rows a table has, about, as the database knows it without counting; else 0. */
  long estimate(Connection connection, String table) throws SQLException;

  Sql sql();

  /** Begins a transaction in which every query sees the same state. Ended by a rollback. */
  void beginReading(Connection connection) throws SQLException;

  /**
   * How to read a column of a result.
   *
   * @param column from 1
   */
  ValueReader valueReader(ResultSetMetaData columns, int column) throws SQLException;

  /** How a column of a type says a time. */
  enum TimeType {
    /** A moment, whatever the zone of the session. */
    UTC,
    /** A day and a time of some zone that it does not say. */
    LOCAL,
    /** The type does not tell; what is in the column may. */
    UNTYPED,
    /** It does not say a time. */
    NONE
  }

  /**
   * How a column of a type says a time.
   *
   * @param type in lower case, as the catalogue names it
   */
  default TimeType timeType(String type) {
    return type.startsWith("timestamp")
        ? TimeType.UTC
        : type.startsWith("datetime") ? TimeType.LOCAL : TimeType.NONE;
  }

  /**
   * Reads a value as records have it: text, whole number, boolean, a list of these, or bytes, which
   * no record can have.
   */
  @FunctionalInterface
  interface ValueReader {
    @Nullable Object read(ResultSet rows, int column) throws SQLException;
  }
}
