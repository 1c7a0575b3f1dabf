package org.mnemex.bench;

import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.postgresql.PGConnection;
import org.postgresql.copy.CopyManager;

/**
 * Records of one's own as a table on a PostgreSQL server.
 *
 * @param count how many rows it has
 * @param longest the column with the longest texts
 */
record OwnRows(long count, String longest) {
  /** Name of the table. Its key is the column {@code row_no}, from 1. */
  static final String TABLE = "own_rows";

  private static final int PORTION = 1000;

  /**
   * Makes the table.
   *
   * @throws IllegalArgumentException if there are none, or none with text
   */
  static OwnRows load(OwnRecords records, Connection connection) throws IOException, SQLException {
    Map<String, String> types = records.columns();
    List<String> names = List.copyOf(types.keySet());
    if (!types.containsValue(OwnRecords.TEXT)) {
      throw new IllegalArgumentException(records.name() + " has no records with text");
    }
    List<String> columns = columns(names);
    StringBuilder table = new StringBuilder("CREATE TABLE " + TABLE);
    table.append(" (row_no bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY");
    List<String> texts = new ArrayList<>();
    for (int i = 0; i < names.size(); i++) {
      String type = types.getOrDefault(names.get(i), OwnRecords.TEXT);
      table.append(", ").append(columns.get(i)).append(' ').append(type);
      if (type.equals(OwnRecords.TEXT)) {
        texts.add(columns.get(i));
      }
    }
    try (Statement statement = connection.createStatement()) {
      statement.execute(table.append(')').toString());
      copy(records, names, columns, connection.unwrap(PGConnection.class).getCopyAPI());
      statement.execute("ANALYZE " + TABLE);
      String lengths =
          texts.stream()
              .map(name -> "coalesce(sum(length(" + name + ")), 0)")
              .collect(Collectors.joining(", "));
      try (ResultSet row =
          statement.executeQuery("SELECT count(*), " + lengths + " FROM " + TABLE)) {
        row.next();
        int longest = 0;
        for (int i = 1; i < texts.size(); i++) {
          longest = row.getLong(i + 2) > row.getLong(longest + 2) ? i : longest;
        }
        return new OwnRows(row.getLong(1), texts.get(longest));
      }
    }
  }

  /** Names as a database likes them, each once. */
  private static List<String> columns(List<String> names) {
    Set<String> columns = new LinkedHashSet<>();
    for (String name : names) {
      String plain = "c_" + name.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]+", "_");
      String other = plain;
      for (int i = 2; !columns.add(other); i++) {
        other = plain + "_" + i;
      }
    }
    return List.copyOf(columns);
  }

  private static void copy(
      OwnRecords own, List<String> names, List<String> columns, CopyManager copies)
      throws IOException, SQLException {
    String sql =
        "COPY %s (%s) FROM STDIN (FORMAT csv)".formatted(TABLE, String.join(", ", columns));
    try (Stream<Map<String, String>> records = own.records()) {
      List<Map<String, String>> portion = new ArrayList<>();
      for (Map<String, String> one : (Iterable<Map<String, String>>) records::iterator) {
        portion.add(one);
        if (portion.size() == PORTION) {
          copies.copyIn(sql, new StringReader(csv(names, portion)));
          portion.clear();
        }
      }
      copies.copyIn(sql, new StringReader(csv(names, portion)));
    }
  }

  private static String csv(List<String> names, List<Map<String, String>> records)
      throws IOException {
    StringWriter text = new StringWriter();
    try (CsvWriter writer = CsvWriter.builder().build(text)) {
      for (Map<String, String> one : records) {
        // PostgreSQL's text has no such character.
        writer.writeRecord(
            names.stream()
                .map(one::get)
                .map(value -> value == null ? null : value.replace("\0", ""))
                .toList());
      }
    }
    return text.toString();
  }
}
