package org.mnemex.bench;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Statement;
import java.sql.Types;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Spliterator;
import java.util.Spliterators;
import java.util.function.Consumer;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.jspecify.annotations.Nullable;

/**
 * The rows of a table or view on PostgreSQL, MariaDB or in a file of SQLite, which are read once
 * with one {@code SELECT}: nothing is made or changed there. Columns of bytes are left out.
 *
 * @param url for JDBC
 * @param table as one writes it after {@code FROM}
 * @param user null: the URL says it
 * @param password null: none is needed
 */
record TableRecords(String url, String table, @Nullable String user, @Nullable String password)
    implements OwnRecords {
  private static final int FETCHED = 1000;

  @Override
  public String name() {
    return table;
  }

  @Override
  public Map<String, String> columns() throws SQLException {
    try (Connection connection = connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT * FROM " + table + " WHERE 1 = 0")) {
      // A column of SQLite may hold anything, whatever its type.
      boolean typed = !url.startsWith("jdbc:sqlite:");
      Map<String, String> columns = new LinkedHashMap<>();
      ResultSetMetaData meta = rows.getMetaData();
      for (int i = 1; i <= meta.getColumnCount(); i++) {
        String type = type(meta.getColumnType(i));
        if (type != null) {
          columns.put(meta.getColumnLabel(i), typed ? type : TEXT);
        }
      }
      return columns;
    }
  }

  private static @Nullable String type(int type) {
    return switch (type) {
      case Types.TINYINT, Types.SMALLINT, Types.INTEGER, Types.BIGINT -> "bigint";
      case Types.NUMERIC, Types.DECIMAL -> "numeric";
      case Types.REAL, Types.FLOAT, Types.DOUBLE -> "double precision";
      case Types.BOOLEAN, Types.BIT -> "boolean";
      case Types.DATE -> "date";
      case Types.TIMESTAMP -> "timestamp";
      case Types.TIMESTAMP_WITH_TIMEZONE -> "timestamptz";
      case Types.BINARY, Types.VARBINARY, Types.LONGVARBINARY, Types.BLOB -> null;
      default -> TEXT;
    };
  }

  private Connection connect() throws SQLException {
    return user == null && password == null
        ? DriverManager.getConnection(url)
        : DriverManager.getConnection(url, user, password);
  }

  @Override
  public Stream<Map<String, String>> records() throws SQLException {
    List<String> names = List.copyOf(columns().keySet());
    Connection connection = connect();
    try {
      connection.setAutoCommit(false);
      Statement statement = connection.createStatement();
      statement.setFetchSize(FETCHED);
      ResultSet rows = statement.executeQuery("SELECT * FROM " + table);
      return StreamSupport.stream(new Rows(rows, names), false).onClose(() -> close(connection));
    } catch (SQLException e) {
      close(connection);
      throw e;
    }
  }

  private static void close(Connection connection) {
    try (connection) {
      connection.rollback();
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  private static final class Rows extends Spliterators.AbstractSpliterator<Map<String, String>> {
    private final ResultSet rows;
    private final List<String> names;

    Rows(ResultSet rows, List<String> names) {
      super(Long.MAX_VALUE, Spliterator.ORDERED | Spliterator.NONNULL);
      this.rows = rows;
      this.names = names;
    }

    @Override
    public boolean tryAdvance(Consumer<? super Map<String, String>> action) {
      try {
        if (!rows.next()) {
          return false;
        }
        Map<String, String> values = new LinkedHashMap<>();
        for (String name : names) {
          String value = rows.getString(name);
          if (value != null) {
            values.put(name, value);
          }
        }
        action.accept(values);
        return true;
      } catch (SQLException e) {
        throw new IllegalStateException(e);
      }
    }
  }
}
