package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.client.IndexStatus;

/**
 * Many indexes over one database, beside one: what they take when nothing changes, when a table
 * changes that none of them reads, and until a change is in all of them.
 */
public final class IndexesBench {
  private static final String USAGE =
      "bench indexes [--on postgres|mariadb] [--capture log|journal] [INDEXES]";

  private static final int DEFAULT_INDEXES = 100;
  private static final int ACCESSIONS = 2000;
  private static final String PROCESSES = "FROM information_schema.processlist";

  /** The compilers are busy for minutes after so many indexes were begun. */
  private static final long SETTLE_MILLIS = 300_000;

  private static final long IDLE_MILLIS = 60_000;
  private static final int OTHER_ROWS = 300_000;
  private static final int CHANGES = 20;
  private static final long POLL_MILLIS = 5;
  private static final long RARE_POLL_MILLIS = 200;

  private final PrintStream out;
  private final ServerGarden garden;
  private final String capture;
  private final ServiceProcess service;
  private final int indexes;

  private IndexesBench(
      PrintStream out, ServerGarden garden, String capture, ServiceProcess service, int indexes) {
    this.out = out;
    this.garden = garden;
    this.capture = capture;
    this.service = service;
    this.indexes = indexes;
  }

  /** Measures and prints: {@code [--on mariadb] [--capture journal] [INDEXES]}. */
  public static void main(String[] args) throws Exception {
    Deque<String> left = new ArrayDeque<>(List.of(args));
    boolean mariadb = false;
    String capture = "log";
    while (left.size() >= 2 && left.getFirst().startsWith("--")) {
      String option = left.removeFirst();
      String value = left.removeFirst();
      switch (option + "=" + value) {
        case "--on=mariadb", "--on=postgres" -> mariadb = value.equals("mariadb");
        case "--capture=journal", "--capture=log" -> capture = value;
        default -> throw new IllegalArgumentException(USAGE);
      }
    }
    int most = left.isEmpty() ? DEFAULT_INDEXES : Integer.parseInt(left.removeFirst());
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    out.printf(
        "Mnemex bench indexes: %d and 1 over one database of %s by its %s, %d cores, Java %s%n",
        most,
        mariadb ? "MariaDB" : "PostgreSQL",
        capture,
        Runtime.getRuntime().availableProcessors(),
        Runtime.version());
    for (int count : new int[] {1, most}) {
      try (ServerGarden garden =
              mariadb ? ServerGarden.onMariadb(ACCESSIONS) : ServerGarden.onPostgres(ACCESSIONS);
          ServiceProcess service = ServiceProcess.start(garden.environment())) {
        new IndexesBench(out, garden, capture, service, count).run();
      }
    }
  }

  private void run() throws Exception {
    Map<String, String> files = new LinkedHashMap<>(garden.definitions());
    files.replaceAll((name, text) -> text.replace("capture: log", "capture: " + capture));
    for (int i = 1; i <= indexes; i++) {
      files.put(
          "taxa-" + i + ".yaml",
          """
          index: taxa-%d
          source: garden
          record:
            root: taxon
            key: [id]
            join:
              family: {table: family, match: {id: family_id}}
          fields:
            name: {from: latin_name, type: text, uses: [search, show]}
            family: {from: family.name, type: exact, uses: [facet]}
          """
              .formatted(i));
    }
    execute("CREATE TABLE visit (id bigint PRIMARY KEY, at timestamp DEFAULT CURRENT_TIMESTAMP)");
    long began = System.nanoTime();
    service.client().apply(files);
    ServiceProcess.await(() -> live() == indexes);
    out.printf("%nindexes: %d, live after %.1f s%n", indexes, (System.nanoTime() - began) / 1e9);
    Thread.sleep(SETTLE_MILLIS);
    double busy = service.processorSeconds();
    Thread.sleep(IDLE_MILLIS);
    double idle = (service.processorSeconds() - busy) / (IDLE_MILLIS / 1000.0);
    row("processor time when nothing changes", "%.1f%% of one".formatted(100 * idle));
    row("connections", connections());
    if (garden.postgres()) {
      row("replication slots", ask("FROM pg_replication_slots"));
    } else {
      row("readers of the log", ask(PROCESSES + " WHERE command = 'Binlog Dump'"));
    }
    row("threads", threads());
    changeOthers();
    changeOne();
  }

  private void row(String what, Object measured) {
    out.printf("%-64s %s%n", what, measured);
  }

  private void changeOthers() throws Exception {
    double before = service.processorSeconds();
    execute(
        "INSERT INTO visit (id) "
            + (garden.postgres()
                ? "SELECT generate_series(1, " + OTHER_ROWS + ")"
                : "SELECT seq FROM seq_1_to_" + OTHER_ROWS));
    // Asking takes processor time, too.
    awaitFresh(RARE_POLL_MILLIS);
    double spent = service.processorSeconds() - before;
    row(
        "processor time for %,d changes of a table that none reads".formatted(OTHER_ROWS),
        "%.2f s".formatted(spent));
  }

  private void changeOne() throws Exception {
    Times times = new Times();
    for (int i = 0; i < CHANGES; i++) {
      long start = System.nanoTime();
      execute("UPDATE taxon SET latin_name = concat(latin_name, 'x') WHERE id = " + (1 + i));
      awaitFresh(POLL_MILLIS);
      times.add(System.nanoTime() - start);
    }
    row("a change of a table that all read, until all are true again", times);
    row("connections afterwards", connections());
  }

  /** The service's connections to the database. */
  private long connections() throws SQLException {
    return garden.postgres()
        ? ask("FROM pg_stat_activity WHERE application_name = 'mnemex'")
        // But for the one that asks.
        : ask(PROCESSES + " WHERE user <> 'system user' AND id <> connection_id()");
  }

  private long live() {
    return service.client().indexes().stream().filter(index -> index.live() != null).count();
  }

  /** Waits until every index includes all that was committed before. */
  private void awaitFresh(long pauseMillis) throws InterruptedException {
    Instant now = Instant.now();
    while (!service.client().indexes().stream().allMatch(index -> isTrueAfter(index, now))) {
      Thread.sleep(pauseMillis);
    }
  }

  private static boolean isTrueAfter(IndexStatus index, Instant moment) {
    IndexStatus.Edition live = index.live();
    String trueAt = live == null ? null : live.trueAt();
    return trueAt != null && Instant.parse(trueAt).isAfter(moment);
  }

  private void execute(String sql) throws SQLException {
    try (Connection connection = garden.connect();
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private long ask(String from) throws SQLException {
    try (Connection connection = garden.connect();
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT count(*) " + from)) {
      rows.next();
      return rows.getLong(1);
    }
  }

  private long threads() throws IOException {
    try (var tasks =
        Files.list(Path.of("/proc", String.valueOf(service.process().pid()), "task"))) {
      return tasks.count();
    }
  }
}
