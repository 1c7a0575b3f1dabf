package org.mnemex.bench;

import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.postgresql.PGConnection;
import org.postgresql.copy.CopyManager;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * The records of a file as a table of texts on a PostgreSQL server: lines of JSON, or CSV whose
 * first line has the names (RFC 4180).
 *
 * @param count how many rows it has
 * @param longest the column with the longest texts
 */
record OwnRows(long count, String longest) {
  /** Name of the table. Its key is the column {@code row_no}, from 1. */
  static final String TABLE = "own_rows";

  private static final int PORTION = 1000;

  /** So many records say which names there are. */
  private static final int SAMPLE = 1000;

  /**
   * Makes the table.
   *
   * @throws IllegalArgumentException if the file has no records
   */
  static OwnRows load(Path file, Connection connection) throws IOException, SQLException {
    List<String> names;
    try (Stream<Map<String, String>> records = records(file)) {
      Set<String> found = new LinkedHashSet<>();
      records.limit(SAMPLE).forEach(one -> found.addAll(one.keySet()));
      names = List.copyOf(found);
    }
    if (names.isEmpty()) {
      throw new IllegalArgumentException(file + " has no records");
    }
    List<String> columns = columns(names);
    try (Statement statement = connection.createStatement()) {
      statement.execute(
          columns.stream()
              .map(name -> name + " text")
              .collect(
                  Collectors.joining(
                      ", ",
                      "CREATE TABLE "
                          + TABLE
                          + " (row_no bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, ",
                      ")")));
      copy(file, names, columns, connection.unwrap(PGConnection.class).getCopyAPI());
      statement.execute("ANALYZE " + TABLE);
      String lengths =
          columns.stream()
              .map(name -> "coalesce(sum(length(" + name + ")), 0)")
              .collect(Collectors.joining(", "));
      try (ResultSet row =
          statement.executeQuery("SELECT count(*), " + lengths + " FROM " + TABLE)) {
        row.next();
        int longest = 0;
        for (int i = 1; i < columns.size(); i++) {
          longest = row.getLong(i + 2) > row.getLong(longest + 2) ? i : longest;
        }
        return new OwnRows(row.getLong(1), columns.get(longest));
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

  private static void copy(Path file, List<String> names, List<String> columns, CopyManager copies)
      throws IOException, SQLException {
    String sql =
        "COPY %s (%s) FROM STDIN (FORMAT csv)".formatted(TABLE, String.join(", ", columns));
    try (Stream<Map<String, String>> records = records(file)) {
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
        writer.writeRecord(names.stream().map(one::get).toList());
      }
    }
    return text.toString();
  }

  private static Stream<Map<String, String>> records(Path file) throws IOException {
    if (file.toString().endsWith(".csv")) {
      return CsvReader.builder().ofNamedCsvRecord(file).stream()
          .map(NamedCsvRecord::getFieldsAsMap);
    }
    JsonMapper json = new JsonMapper();
    BufferedReader lines = Files.newBufferedReader(file);
    return lines
        .lines()
        .onClose(() -> close(lines))
        .filter(line -> !line.isBlank())
        .map(line -> values(json.readTree(line)));
  }

  private static void close(BufferedReader lines) {
    try {
      lines.close();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private static Map<String, String> values(JsonNode record) {
    Map<String, String> values = new LinkedHashMap<>();
    for (Map.Entry<String, JsonNode> one : record.properties()) {
      String value = text(one.getValue());
      if (value != null) {
        // A database's text has no such character.
        values.put(one.getKey(), value.replace("\0", ""));
      }
    }
    return values;
  }

  private static @Nullable String text(JsonNode value) {
    if (value.isNull()) {
      return null;
    }
    return value.isString() ? value.asString() : value.toString();
  }
}
