package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.Garden;

/** A garden in a test's folder, its definitions, and plain SQL on it. */
final class GardenFiles {
  private GardenFiles() {}

  static Path create(Path folder, int accessions) throws IOException, SQLException {
    Path file = folder.resolve("mnemex-data/garden.db");
    Garden.create(file, accessions, 7);
    return file;
  }

  /** The definition files of the example, by name. */
  static Map<String, String> definitions() {
    Map<String, String> files = new LinkedHashMap<>();
    try (Stream<Path> inside = Files.list(RunningService.root().resolve("examples/garden"))) {
      for (Path file : inside.sorted().toList()) {
        files.put(file.getFileName().toString(), Files.readString(file));
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    return files;
  }

  /**
   * The definition files of the example with another source.
   *
   * @param kind postgres or mariadb
   */
  static Map<String, String> definitionsOn(String kind) throws IOException {
    Map<String, String> files = definitions();
    files.put(
        "source.yaml",
        Files.readString(
            RunningService.root().resolve("examples/garden-on-" + kind + "/source.yaml")));
    return files;
  }

  /** The definition files of the example with one of them changed. */
  static Map<String, String> edited(String file, UnaryOperator<String> edit) {
    Map<String, String> files = definitions();
    files.compute(
        file,
        (name, text) -> {
          String after = edit.apply(text);
          assertThat(after).isNotEqualTo(text);
          return after;
        });
    return files;
  }

  static int run(Path garden, String sql, @Nullable Object... values) throws SQLException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden));
        PreparedStatement statement = connection.prepareStatement(sql)) {
      bind(statement, values);
      return statement.executeUpdate();
    }
  }

  /** Nobody else may write for a while. */
  static void lock(Path garden, int millis) throws SQLException, InterruptedException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden));
        Statement statement = connection.createStatement()) {
      statement.execute("BEGIN EXCLUSIVE");
      TimeUnit.MILLISECONDS.sleep(millis);
      statement.execute("ROLLBACK");
    }
  }

  /**
   * Changes rows without a line in the journal, so that nobody hears of it: what an audit is for.
   */
  static void runUnseen(Path garden, String... statements) throws SQLException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden));
        Statement statement = connection.createStatement()) {
      connection.setAutoCommit(false);
      // Begins to write, so that nobody else's lines come in between.
      statement.executeUpdate("UPDATE mnemex_journal_state SET trimmed = trimmed");
      long last;
      try (ResultSet rows =
          statement.executeQuery("SELECT seq FROM sqlite_sequence WHERE name = 'mnemex_journal'")) {
        last = rows.next() ? rows.getLong(1) : 0;
      }
      for (String sql : statements) {
        statement.executeUpdate(sql);
      }
      statement.executeUpdate("DELETE FROM mnemex_journal WHERE seq > " + last);
      connection.commit();
    }
  }

  /** Rows as lists of values. */
  static List<List<@Nullable Object>> query(Path garden, String sql, @Nullable Object... values)
      throws SQLException {
    try (Connection connection = DriverManager.getConnection(Garden.url(garden))) {
      return query(connection, sql, values);
    }
  }

  /** Rows as lists of values. */
  static List<List<@Nullable Object>> query(
      Connection connection, String sql, @Nullable Object... values) throws SQLException {
    try (PreparedStatement statement = connection.prepareStatement(sql)) {
      bind(statement, values);
      try (ResultSet rows = statement.executeQuery()) {
        List<List<@Nullable Object>> all = new ArrayList<>();
        while (rows.next()) {
          List<@Nullable Object> row = new ArrayList<>();
          for (int i = 1; i <= rows.getMetaData().getColumnCount(); i++) {
            row.add(rows.getObject(i));
          }
          all.add(row);
        }
        return all;
      }
    }
  }

  private static void bind(PreparedStatement statement, @Nullable Object... values)
      throws SQLException {
    for (int i = 0; i < values.length; i++) {
      statement.setObject(i + 1, values[i]);
    }
  }

  /** The garden's definitions with one text of an index or analyser in the place of another. */
  static Map<String, String> replaced(String good, String other) throws IOException {
    String file =
        definitions().get("plants.yaml").contains(good) ? "plants.yaml" : "analysers.yaml";
    return edited(file, text -> text.replace(good, other));
  }

  /** Takes the Japanese names out of index and endpoint. */
  static void removeJapanese(Map<String, String> files) {
    files.compute("plants.yaml", (name, text) -> text.replaceAll("(?m)^  name_ja:.*\n", ""));
    files.compute("plant-search.yaml", (name, text) -> text.replaceAll(", name_ja: [0-9.]+", ""));
  }
}
