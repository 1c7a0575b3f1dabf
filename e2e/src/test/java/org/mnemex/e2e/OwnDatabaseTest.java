package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.garden.server.PostgresServer;

/**
 * From somebody's own database to a live, audited index and back to nothing, by the command line.
 * The database has names that need quotes everywhere, composite keys, a view, partitions, a table
 * that refers to itself, and things that are nobody's business.
 */
class OwnDatabaseTest {
  private static final List<String> SCHEMA =
      List.of(
          "CREATE TABLE \"Grower\" (\"Grower Id\" serial PRIMARY KEY, \"Full Name\" text, \"E-Mail\" text)",
          "CREATE TABLE \"select\" (\"order\" int, \"Group\" text, \"Title\" text NOT NULL, parent_order int,"
              + " parent_group text, \"Grower Id\" int REFERENCES \"Grower\", body text, \"Stock\" boolean,"
              + " price numeric(10,2), tags text[], seen timestamptz DEFAULT now(), day date, extra jsonb,"
              + " PRIMARY KEY (\"order\", \"Group\"),"
              + " FOREIGN KEY (parent_order, parent_group) REFERENCES \"select\" (\"order\", \"Group\"))",
          "CREATE TABLE \"Log Line\" (id bigserial, at date NOT NULL, \"order\" int, \"Group\" text, said text,"
              + " PRIMARY KEY (id, at),"
              + " FOREIGN KEY (\"order\", \"Group\") REFERENCES \"select\" ON DELETE CASCADE ON UPDATE CASCADE)"
              + " PARTITION BY RANGE (at)",
          "CREATE TABLE log_2025 PARTITION OF \"Log Line\" FOR VALUES FROM ('2025-01-01') TO ('2026-01-01')",
          "CREATE TABLE log_2026 PARTITION OF \"Log Line\" FOR VALUES FROM ('2026-01-01') TO ('2027-01-01')",
          "CREATE VIEW everything AS SELECT * FROM \"select\"",
          "INSERT INTO \"Grower\" (\"Full Name\", \"E-Mail\") SELECT 'Grower ' || i, 'g' || i || '@quillmere.example'"
              + " FROM generate_series(1, 20) i",
          "INSERT INTO \"select\" SELECT i, 'g''' || i % 3, 'Seed mix no. ' || i, NULL, NULL, 1 + i % 20,"
              + " '<p>The mix was sown with <b>care</b> and has been watered by the team</p>', i % 2 = 0, i * 1.5,"
              + " ARRAY['shade', 'wet'], now(), DATE '2025-03-01' + i % 300, '{\"a\": 1}' FROM generate_series(1, 300) i",
          "UPDATE \"select\" s SET parent_order = p.\"order\", parent_group = p.\"Group\" FROM \"select\" p"
              + " WHERE p.\"order\" = s.\"order\" / 2",
          "INSERT INTO \"Log Line\" (at, \"order\", \"Group\", said) SELECT DATE '2025-06-01' + i, \"order\","
              + " \"Group\", 'Watered and weeded, row ' || \"order\" || ' on day ' || i FROM \"select\", generate_series(0, 300, 100) i");

  @Test
  void byTheLogAndByAJournal(@TempDir Path folder) throws Exception {
    Path servers = Files.createTempDirectory("mnemex-own");
    try (PostgresServer server = PostgresServer.start(servers)) {
      server.createDatabase("own");
      try (Connection database = server.connect("own")) {
        run(database, SCHEMA.toArray(String[]::new));
        try (RunningService service = RunningService.start(folder, server.environment())) {
          Walk walk = new Walk(service, folder, database);
          walk.walk("log", server);
          walk.walk("journal", server);
        }
      }
    }
  }

  /** One way through everything. */
  private record Walk(RunningService service, Path folder, Connection database) {
    void walk(String capture, PostgresServer server) throws Exception {
      String source = "own-" + capture;
      add(source, capture, server);
      if (capture.equals("log")) {
        look(source);
      }
      Path draft = folder.resolve(capture + ".yaml");
      mnemex(0, "draft", source, "select", "--out", draft.toString());
      assertThat(Files.readString(draft))
          .contains("- \"Grower.E-Mail\"", "analyser: english", "strip_html", "# left out: extra");
      assertThat(mnemex(1, "apply", draft.toString())).contains("is not prepared");
      mnemex(0, "apply", draft.toString(), "--prepare");
      service.awaitLive("select");
      assertThat(mnemex(0, "source", "check", source)).doesNotContain("missing");
      assertThat(mnemex(0, "audit", "-i", "select"))
          .contains("300 of 300 records agree; 0 missing, 0 stale, 0 extra; 0 in quarantine");
      if (capture.equals("log")) {
        add("own-too", capture, server);
        assertThat(mnemex(0, "source", "check", "own-too")).doesNotContain("feeds no edition");
        mnemex(0, "source", "forget", "own-too", "--run");
      }
      change();
      applyAgainWithAnother(source, capture);
      remove(source);
    }

    /** A source that is applied again, unchanged, is still read once for all indexes. */
    private void applyAgainWithAnother(String source, String capture) throws Exception {
      Path both = folder.resolve("both.yaml");
      Files.writeString(
          both,
          Files.readString(folder.resolve(source + ".source.yaml"))
              + """

              ---
              index: growers
              source: %s
              record: {root: Grower, key: [Grower Id]}
              fields:
                name: {from: Full Name, type: text}
              """
                  .formatted(source));
      mnemex(0, "apply", both.toString(), "--prepare");
      service.awaitLive("growers");
      if (capture.equals("log")) {
        // It may have a stream of its own for a moment, until it has caught up with the others.
        RunningService.await(() -> ask("SELECT count(*) FROM pg_replication_slots").equals("1"));
        assertThat(ask("SELECT count(*) FROM pg_stat_replication")).isEqualTo("1");
      }
      mnemex(0, "remove", "index", "growers", "--yes");
    }

    private void add(String source, String capture, PostgresServer server) throws Exception {
      mnemex(
          0,
          "source",
          "add",
          source,
          "postgres",
          "--port",
          Integer.toString(server.port()),
          "--database",
          "own",
          "--user",
          server.user(),
          "--password-env",
          "MNEMEX_GARDEN_PASSWORD",
          "--capture",
          capture);
      assertThat(Files.readString(folder.resolve(source + ".source.yaml")))
          .contains("password: ${MNEMEX_GARDEN_PASSWORD}");
    }

    private void look(String source) throws Exception {
      assertThat(mnemex(0, "source", "tables", source)).contains("everything (view)", "Log Line");
      assertThat(mnemex(0, "source", "tables", source, "select")).contains("Seed mix no. 1");
      assertThat(mnemex(1, "draft", source, "everything")).contains("is a view");
      assertThat(mnemex(1, "draft", source, "Selct")).contains("select");
    }

    private void change() throws Exception {
      run(
          database,
          "UPDATE \"select\" SET \"Title\" = 'Quixotic mix' WHERE \"order\" = 7",
          "UPDATE \"Log Line\" SET said = 'Phosphorescent moss', at = '2026-02-02' WHERE id ="
              + " (SELECT min(id) FROM \"Log Line\" WHERE \"order\" = 9)",
          "UPDATE \"select\" SET \"order\" = 1000 WHERE \"order\" = 299",
          "DELETE FROM \"select\" WHERE \"order\" = 300");
      String position = mnemex(0, "feed", "position", "-i", "select").strip();
      assertThat(mnemex(0, "search", "select-search", "quixotic", "--true-for", position))
          // Its children show it as their parent, too.
          .contains("7/g'1", "14/g'2", "15/g'0");
      assertThat(mnemex(0, "search", "select-search", "phosphorescent")).contains("9/g'0");
      assertThat(mnemex(0, "audit", "-i", "select"))
          .contains("299 of 299 records agree; 0 missing, 0 stale, 0 extra; 0 in quarantine");
      assertThat(mnemex(0, "trace", "7/g'1", "-i", "select")).contains("Quixotic mix");
      run(
          database,
          "UPDATE \"select\" SET \"order\" = 299 WHERE \"order\" = 1000",
          "UPDATE \"select\" SET \"Title\" = 'Seed mix' WHERE \"order\" = 7",
          "INSERT INTO \"select\" (\"order\", \"Group\", \"Title\") VALUES (300, 'g''0', 'Seed mix')",
          "UPDATE \"Log Line\" SET said = 'Watered' WHERE said LIKE 'Phos%'");
    }

    private void remove(String source) throws Exception {
      assertThat(mnemex(1, "source", "forget", source, "--run")).contains("is used by an index");
      assertThat(mnemex(1, "remove", "index", "select", "--yes"))
          .contains("is needed by endpoint 'select-search'");
      mnemex(0, "remove", "endpoint", "select-search", "--yes");
      mnemex(0, "remove", "index", "select", "--yes");
      assertThat(folder.resolve("mnemex-data/indexes/select")).doesNotExist();
      mnemex(0, "source", "forget", source, "--run");
      assertThat(traces(database)).isEmpty();
      assertThat(service.log()).doesNotContain("@quillmere.example");
    }

    private String ask(String sql) {
      try (Statement statement = database.createStatement();
          ResultSet rows = statement.executeQuery(sql)) {
        rows.next();
        return rows.getString(1);
      } catch (SQLException e) {
        throw new IllegalStateException(e);
      }
    }

    private String mnemex(int exitCode, String... arguments) throws Exception {
      CommandLineTest.Outcome outcome =
          CommandLineTest.run(service.url.toString(), folder, List.of(arguments));
      assertThat(outcome.exitCode())
          .as(String.join(" ", arguments) + ": " + outcome.out() + outcome.err())
          .isEqualTo(exitCode);
      return outcome.out() + outcome.err();
    }
  }

  /** Everything of ours in the database. */
  private static List<String> traces(Connection database) throws SQLException {
    List<String> found = new ArrayList<>();
    for (Map.Entry<String, String> where :
        Map.of(
                "pg_class", "relname",
                "pg_proc", "proname",
                "pg_trigger", "tgname",
                "pg_publication", "pubname",
                "pg_replication_slots", "slot_name")
            .entrySet()) {
      try (Statement statement = database.createStatement();
          ResultSet rows =
              statement.executeQuery(
                  "SELECT %2$s FROM %1$s WHERE %2$s::text LIKE 'mnemex%%'"
                      .formatted(where.getKey(), where.getValue()))) {
        while (rows.next()) {
          found.add(rows.getString(1));
        }
      }
    }
    return found;
  }

  private static void run(Connection connection, String... statements) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      for (String sql : statements) {
        statement.execute(sql);
      }
    }
  }
}
