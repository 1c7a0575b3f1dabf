package org.mnemex.sync.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.mnemex.sync.FollowedDatabase;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;

/** Several readers of one database, in each way of following in which one capture reads for all. */
class SharedSourceTest {
  private static final Map<String, Set<String>> PLANTS = Map.of("plant", Set.of("id"));
  private static final Map<String, Set<String>> LOTS = Map.of("lot", Set.of("id"));
  private static final Duration SOON = Duration.ofMillis(20);
  private static final Duration LONG = Duration.ofSeconds(60);
  private static final String POSTGRES_SESSIONS =
      "FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()";
  private static final String MARIADB_SESSIONS =
      "FROM information_schema.processlist WHERE db = database() AND id <> connection_id()";

  @TempDir Path folder;

  @ParameterizedTest
  @EnumSource(mode = EnumSource.Mode.EXCLUDE, names = "POSTGRES_LOG")
  void readersThatHaveCaughtUpShareOneConnectionAndDoWithoutIt(FollowedDatabase.Way way)
      throws Exception {
    FollowedDatabase database = new FollowedDatabase(way, folder);
    try (Connection connection = database.connect();
        Connection other = database.connect()) {
      run(connection, "CREATE TABLE plant (id integer PRIMARY KEY, text varchar(20))");
      run(connection, "CREATE TABLE lot (id integer PRIMARY KEY, text varchar(20))");
      database.source.prepare(PLANTS);
      database.source.prepare(LOTS);
      List<Reader> readers = new ArrayList<>();
      readers.add(new Reader(database.source, "one", PLANTS));
      readers.add(new Reader(database.source, "two", PLANTS));
      readers.add(new Reader(database.source, "three", LOTS));
      run(connection, "INSERT INTO plant (id) VALUES (1), (2)");
      run(connection, "INSERT INTO lot (id) VALUES (1)");
      get(readers, Set.of(1L, 2L), Set.of(1L));
      for (Reader reader : readers) {
        reader.joinOthers();
      }
      if (database.server != null) {
        awaitOneSession(connection, way);
      }

      // A transaction that begins first and is committed last.
      if (database.server != null) {
        other.setAutoCommit(false);
        run(other, "INSERT INTO plant (id) VALUES (3)");
      }
      run(connection, "INSERT INTO plant (id) VALUES (4)");
      get(readers, Set.of(1L, 2L, 4L), Set.of(1L));
      if (database.server != null) {
        other.commit();
      } else {
        run(other, "INSERT INTO plant (id) VALUES (3)");
      }
      get(readers, Set.of(1L, 2L, 3L, 4L), Set.of(1L));

      if (database.server != null) {
        endSessions(connection, way);
      }
      run(connection, "INSERT INTO plant (id) VALUES (5)");
      run(connection, "INSERT INTO lot (id) VALUES (2)");
      get(readers, Set.of(1L, 2L, 3L, 4L, 5L), Set.of(1L, 2L));
      for (Reader reader : readers) {
        reader.capture.leave();
      }
      assertThat(database.source.readers()).isEmpty();
    }
  }

  private static void get(List<Reader> readers, Set<Long> plants, Set<Long> lots) throws Exception {
    for (Reader reader : readers) {
      Set<Long> wanted = reader.columns.equals(PLANTS) ? plants : lots;
      long deadline = System.nanoTime() + LONG.toNanos();
      while (!reader.ids.equals(wanted) && System.nanoTime() < deadline) {
        reader.take();
      }
      assertThat(reader.ids).isEqualTo(wanted);
    }
  }

  private static void run(Connection connection, String sql) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private static void awaitOneSession(Connection connection, FollowedDatabase.Way way)
      throws SQLException {
    long deadline = System.nanoTime() + LONG.toNanos();
    while (sessions(connection, way).size() != 2 && System.nanoTime() < deadline) {
      LockSupport.parkNanos(SOON.toNanos());
    }
    // That of the test, and one of the source.
    assertThat(sessions(connection, way)).hasSize(2);
  }

  private static List<Long> sessions(Connection connection, FollowedDatabase.Way way)
      throws SQLException {
    boolean postgres = way == FollowedDatabase.Way.POSTGRES_JOURNAL;
    List<Long> all = new ArrayList<>();
    try (Statement statement = connection.createStatement();
        ResultSet rows =
            statement.executeQuery(
                postgres ? "SELECT pid " + POSTGRES_SESSIONS : "SELECT id " + MARIADB_SESSIONS)) {
      while (rows.next()) {
        all.add(rows.getLong(1));
      }
    }
    return all;
  }

  private static void endSessions(Connection connection, FollowedDatabase.Way way)
      throws SQLException {
    for (long session : sessions(connection, way)) {
      run(
          connection,
          way == FollowedDatabase.Way.POSTGRES_JOURNAL
              ? "SELECT pg_terminate_backend(" + session + ")"
              : "KILL " + session);
    }
  }

  private static final class Reader {
    private final Map<String, Set<String>> columns;
    private final Source.Capture capture;
    private final Set<Long> ids = new HashSet<>();
    private Position at;

    Reader(Source source, String name, Map<String, Set<String>> columns) throws Exception {
      this.columns = columns;
      capture = source.capture(name + "@installation", columns);
      at = capture.now();
      capture.done(at);
    }

    void take() throws Exception {
      Changes changes = capture.after(at, 100, SOON);
      for (Change change : changes.list()) {
        if (columns.containsKey(change.table())) {
          ids.add(((Number) change.columns().get("id")).longValue());
        }
      }
      at = changes.upTo();
    }

    /** Only who takes from the others knows at which moment all was there. */
    void joinOthers() throws Exception {
      long deadline = System.nanoTime() + LONG.toNanos();
      while (System.nanoTime() < deadline) {
        Changes changes = capture.after(at, 100, SOON);
        at = changes.upTo();
        if (changes.allAt() != null) {
          return;
        }
      }
      throw new AssertionError("it does not join the others");
    }
  }
}
