package org.mnemex.sync.record;

import java.nio.charset.StandardCharsets;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.Blob;

/** The values of a result's current row. */
final class RowValues {
  private final ResultSet rows;
  private final SqlDatabase.ValueReader[] readers;

  RowValues(SqlDatabase database, ResultSet rows) throws SQLException {
    this.rows = rows;
    ResultSetMetaData columns = rows.getMetaData();
    readers = new SqlDatabase.ValueReader[columns.getColumnCount()];
    for (int i = 0; i < readers.length; i++) {
      readers[i] = database.valueReader(columns, i + 1);
    }
  }

  @Nullable Object get(int column) throws SQLException {
    return readers[column - 1].read(rows, column);
  }

  /** A file and, in the next column, its size. */
  @Nullable Blob file(int column) throws SQLException {
    Object size = get(column + 1);
    if (size == null) {
      return null;
    }
    Object bytes = get(column);
    return new Blob(
        bytes instanceof String text
            ? text.getBytes(StandardCharsets.UTF_8)
            : (byte @Nullable []) bytes,
        Long.parseLong(size.toString()));
  }
}
