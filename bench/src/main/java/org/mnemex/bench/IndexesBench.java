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
import java.util.LinkedHashMap;
import java.util.Map;
import org.mnemex.client.IndexStatus;

/**
 * Many indexes over one PostgreSQL database, beside one: what they take when nothing changes, when
 * a table changes that none of them reads, and until a change is in all of them.
 */
public final class IndexesBench {
  private static final int ACCESSIONS = 2000;

  /** The compilers are busy for minutes after so many indexes were begun. */
  private static final long SETTLE_MILLIS = 300_000;

  private static final long IDLE_MILLIS = 60_000;
  private static final int OTHER_ROWS = 300_000;
  private static final int CHANGES = 20;
  private static final long POLL_MILLIS = 5;
  private static final long RARE_POLL_MILLIS = 200;

  private final PrintStream out;
  private final ServerGarden garden;
  private final ServiceProcess service;
  private final int indexes;

  private IndexesBench(PrintStream out, ServerGarden garden, ServiceProcess service, int indexes) {
    this.out = out;
    this.garden = garden;
    this.service = service;
    this.indexes = indexes;
  }

  /** Measures and prints: {@code [INDEXES]}. */
  public static void main(String[] args) throws Exception {
    int most = args.length == 0 ? 100 : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    out.printf(
        "Mnemex bench indexes: %d and 1 over one PostgreSQL database, %d cores, Java %s%n",
        most, Runtime.getRuntime().availableProcessors(), Runtime.version());
    for (int count : new int[] {1, most}) {
      try (ServerGarden garden = ServerGarden.onPostgres(ACCESSIONS);
          ServiceProcess service = ServiceProcess.start(garden.environment())) {
        new IndexesBench(out, garden, service, count).run();
      }
    }
  }

  private void run() throws Exception {
    Map<String, String> files = new LinkedHashMap<>(garden.definitions());
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
    execute("CREATE TABLE visit (id bigserial PRIMARY KEY, at timestamptz DEFAULT now())");
    long began = System.nanoTime();
    service.client().apply(files);
    ServiceProcess.await(() -> live() == indexes);
    out.printf("%nindexes: %d, live after %.1f s%n", indexes, (System.nanoTime() - began) / 1e9);
    Thread.sleep(SETTLE_MILLIS);
    double busy = service.processorSeconds();
    Thread.sleep(IDLE_MILLIS);
    double idle = (service.processorSeconds() - busy) / (IDLE_MILLIS / 1000.0);
    row("processor time when nothing changes", "%.1f%% of one".formatted(100 * idle));
    row("connections", ask("FROM pg_stat_activity WHERE application_name = 'mnemex'"));
    row("replication slots", ask("FROM pg_replication_slots"));
    row("threads", threads());
    changeOthers();
    changeOne();
  }

  private void row(String what, Object measured) {
    out.printf("%-64s %s%n", what, measured);
  }

  private void changeOthers() throws Exception {
    double before = service.processorSeconds();
    execute("INSERT INTO visit (id) SELECT generate_series(1, " + OTHER_ROWS + ")");
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
      execute("UPDATE taxon SET latin_name = latin_name || 'x' WHERE id = " + (1 + i));
      awaitFresh(POLL_MILLIS);
      times.add(System.nanoTime() - start);
    }
    row("a change of a table that all read, until all are true again", times);
    row("connections afterwards", ask("FROM pg_stat_activity WHERE application_name = 'mnemex'"));
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
