package org.mnemex.bench;

import java.io.IOException;
import java.io.OutputStream;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import org.postgresql.PGConnection;

/** How fast a database gives rows to somebody who does nothing with them. */
final class PlainReading {
  private final ServerGarden garden;

  PlainReading(ServerGarden garden) {
    this.garden = garden;
  }

  /** What {@link #table} does. */
  String what() {
    return garden.postgres() ? "COPY (SELECT …) TO STDOUT" : "a SELECT that is streamed";
  }

  /** Rows of a whole table a second; the better of two runs, as the second finds it in memory. */
  double table(String table) throws SQLException, IOException {
    double first = copy(table);
    return Math.max(first, copy(table));
  }

  /** Rows of a query a second, likewise. */
  double query(String sql) throws SQLException {
    double first = stream(sql);
    return Math.max(first, stream(sql));
  }

  private double copy(String table) throws SQLException, IOException {
    String sql = "SELECT * FROM " + table;
    if (!garden.postgres()) {
      return stream(sql);
    }
    try (Connection connection = garden.connect()) {
      long start = System.nanoTime();
      long rows =
          connection
              .unwrap(PGConnection.class)
              .getCopyAPI()
              .copyOut("COPY (" + sql + ") TO STDOUT", OutputStream.nullOutputStream());
      return rows * 1e9 / (System.nanoTime() - start);
    }
  }

  private double stream(String sql) throws SQLException {
    try (Connection connection = garden.connect()) {
      connection.setAutoCommit(false);
      long start = System.nanoTime();
      long rows = 0;
      try (Statement statement = connection.createStatement()) {
        statement.setFetchSize(1000);
        try (ResultSet result = statement.executeQuery(sql)) {
          while (result.next()) {
            rows += result.getString(1).isEmpty() ? 0 : 1;
          }
        }
      }
      return rows * 1e9 / (System.nanoTime() - start);
    }
  }
}
