package org.mnemex.service.backup;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.stream.Stream;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.sync.edition.Edition;
import org.springframework.util.FileSystemUtils;
import org.sqlite.SQLiteConnection;
import org.sqlite.core.DB;

/**
 * Freezes the state of the data folder in another folder of the same file system.
 *
 * <p>Editions come first, then our records. So the records know of everything that an edition has
 * passed, such as quarantined and pushed records: the state is one that a crash could have left,
 * and is opened like one. Commits, merges and searches go on meanwhile.
 */
final class FrozenState {
  /** The name of our records' file. */
  private static final String RECORDS = "mnemex.db";

  private static final String INDEXES = "indexes";

  /** Editions rarely begin or end, and freezing takes moments. */
  private static final int TRIES = 5;

  /** One transaction reads the whole file; in portions, each write would begin it anew. */
  private static final int ALL_PAGES = -1;

  private static final int BUSY_SLEEP_MILLIS = 50;
  private static final int BUSY_TRIES = 200;

  private final Path data;
  private final Path folder;

  /**
   * @param data the data folder
   * @param folder where the state is frozen; made by this
   */
  FrozenState(Path data, Path folder) {
    this.data = data;
    this.folder = folder;
  }

  /** An edition by its folder. */
  private record Frozen(String index, int number) {
    Path in(Path data) {
      return data.resolve(INDEXES).resolve(index).resolve("edition-" + number);
    }
  }

  /**
   * Freezes the state.
   *
   * @return the version of the tables of our records
   * @throws IOException if files cannot be written, or the copy of our records is damaged
   */
  String freeze(Installation installation) throws IOException {
    Path records = folder.resolve(RECORDS);
    for (int tried = 1; ; tried++) {
      FileSystemUtils.deleteRecursively(folder);
      Files.createDirectories(folder.resolve(INDEXES));
      List<Frozen> frozen = freezeEditions(installation);
      copyRecords(records);
      endBackup(records);
      RecordsCopy copy = read(records);
      if (frozen.containsAll(copy.editions)) {
        for (Frozen edition : frozen) {
          if (!copy.editions.contains(edition)) {
            FileSystemUtils.deleteRecursively(edition.in(folder));
          }
        }
        return copy.version;
      }
      if (tried == TRIES) {
        throw new IOException("editions began or ended all the time; try again later");
      }
    }
  }

  private List<Frozen> freezeEditions(Installation installation) throws IOException {
    List<Frozen> frozen = new ArrayList<>();
    for (RunningIndex index : installation.running().indexes().values()) {
      for (Edition edition : index.editions().all()) {
        Frozen one = new Frozen(edition.entry().index(), edition.number());
        edition.folder().link(one.in(folder));
        frozen.add(one);
      }
    }
    // Nobody writes the files of an index that is not running.
    for (Installation.Failure failure : installation.failures().values()) {
      frozen.addAll(freezeFiles(failure.row().keptAs()));
    }
    return frozen;
  }

  private List<Frozen> freezeFiles(String index) throws IOException {
    List<Frozen> frozen = new ArrayList<>();
    Path root = data.resolve(INDEXES).resolve(index);
    if (!Files.isDirectory(root)) {
      return frozen;
    }
    for (Path edition : list(root)) {
      String name = name(edition);
      if (!name.matches("edition-\\d+")) {
        continue;
      }
      Frozen one = new Frozen(index, Integer.parseInt(name.substring("edition-".length())));
      Path to = Files.createDirectories(one.in(folder));
      for (Path file : list(edition)) {
        if (!name(file).equals("writer.lock")) {
          Files.createLink(to.resolve(name(file)), file);
        }
      }
      frozen.add(one);
    }
    return frozen;
  }

  private static List<Path> list(Path folder) throws IOException {
    try (Stream<Path> all = Files.list(folder)) {
      return all.toList();
    }
  }

  private static String name(Path file) {
    return String.valueOf(file.getFileName());
  }

  private void copyRecords(Path to) throws IOException {
    try (Connection ours = DriverManager.getConnection("jdbc:sqlite:" + data.resolve(RECORDS))) {
      int code =
          ours.unwrap(SQLiteConnection.class)
              .getDatabase()
              .backup("main", to.toString(), null, BUSY_SLEEP_MILLIS, BUSY_TRIES, ALL_PAGES);
      if (code != DB.SQLITE_OK && code != DB.SQLITE_DONE) {
        throw new IOException("our records cannot be copied: SQLite answers code " + code);
      }
    } catch (SQLException e) {
      throw new IOException("our records cannot be copied: " + e.getMessage(), e);
    }
  }

  /** In the copy, the job that makes it has ended; it would be told as interrupted otherwise. */
  private static void endBackup(Path records) throws IOException {
    try (Connection copy = DriverManager.getConnection("jdbc:sqlite:" + records);
        Statement statement = copy.createStatement()) {
      statement.executeUpdate(
          "UPDATE job SET state = 'done', ended = started, message = 'the backup that this is'"
              + " WHERE kind = 'backup' AND ended IS NULL");
    } catch (SQLException e) {
      throw new IOException("the copy of our records cannot be written: " + e.getMessage(), e);
    }
  }

  /**
   * What the copy of our records says.
   *
   * @param editions those that there are
   * @param version the version of the tables
   */
  private record RecordsCopy(List<Frozen> editions, String version) {}

  private static RecordsCopy read(Path records) throws IOException {
    // Immutable: a copy that is only read needs no files beside it.
    try (Connection copy =
            DriverManager.getConnection("jdbc:sqlite:file:" + records + "?immutable=1");
        Statement statement = copy.createStatement()) {
      try (ResultSet check = statement.executeQuery("PRAGMA quick_check")) {
        if (!check.next() || !Objects.equals(check.getString(1), "ok")) {
          throw new IOException("our records are damaged: " + check.getString(1));
        }
      }
      List<Frozen> editions = new ArrayList<>();
      try (ResultSet rows =
          statement.executeQuery(
              "SELECT index_name, number FROM edition WHERE state != 'RETIRED'")) {
        while (rows.next()) {
          editions.add(new Frozen(rows.getString(1), rows.getInt(2)));
        }
      }
      try (ResultSet version =
          statement.executeQuery(
              "SELECT version FROM flyway_schema_history ORDER BY installed_rank DESC LIMIT 1")) {
        return new RecordsCopy(editions, version.next() ? version.getString(1) : "");
      }
    } catch (SQLException e) {
      throw new IOException("the copy of our records cannot be read: " + e.getMessage(), e);
    }
  }
}
