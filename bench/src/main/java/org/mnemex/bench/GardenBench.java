package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Stream;
import org.mnemex.client.AuditReport;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.Folders;

/**
 * Measures the packaged service on the demo garden from outside: start, backfill, lag of single
 * changes, searches. Run it with {@code ./mnemex bench [--on postgres|mariadb] [--calls] [--visits
 * N [--days N]] [ACCESSIONS]}; with {@code --calls} only those of a search page, with {@code
 * --visits} only what it costs to record searches, and then so many visits; with {@code --days}
 * only the visits, spread over so many days that end today.
 */
public final class GardenBench {
  private static final int CHANGES = 300;
  private static final int SEARCHES = 1000;
  private static final List<String> WORDS =
      List.of(
          "fern",
          "shade fern",
          "damaged slugs",
          "rose",
          "\"late frost\"",
          "asplenium",
          "vig*",
          "honey fungus OR aphids",
          "mulched leaf mould",
          "japanese maple",
          "doradille",
          "");

  private final PrintStream out;
  private final Path folder;
  private final BenchDatabase database;

  private GardenBench(PrintStream out, Path folder, BenchDatabase database) {
    this.out = out;
    this.folder = folder;
    this.database = database;
  }

  /** Measures and prints. */
  public static void main(String[] args) throws IOException, SQLException, InterruptedException {
    List<String> left = new ArrayList<>(List.of(args));
    String on = "sqlite";
    if (left.size() >= 2 && left.getFirst().equals("--on")) {
      on = left.get(1);
      left.subList(0, 2).clear();
    }
    boolean callsOnly = left.remove("--calls");
    int visits = number(left, "--visits");
    int days = number(left, "--days");
    if (days > 0 && visits == 0) {
      throw new IllegalArgumentException(
          "--days says when the visitors of --visits N come; give both");
    }
    int accessions = left.isEmpty() ? Garden.USUAL_ACCESSIONS : Integer.parseInt(left.getFirst());
    Path folder = Files.createTempDirectory("mnemex-bench");
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    try (BenchDatabase database =
        switch (on) {
          case "postgres" -> ServerGarden.onPostgres(accessions);
          case "mariadb" -> ServerGarden.onMariadb(accessions);
          case "sqlite" -> SqliteGarden.create(folder, accessions);
          default -> throw new IllegalArgumentException("no garden on " + on);
        }) {
      GardenBench bench = new GardenBench(out, folder, database);
      if (days > 0) {
        bench.visitForDays(visits, days);
      } else {
        bench.run(accessions, callsOnly, visits);
      }
    } finally {
      Folders.delete(folder);
    }
  }

  /** The number after an option, which is then taken away; 0 if it is not there. */
  private static int number(List<String> arguments, String option) {
    int at = arguments.indexOf(option);
    if (at < 0) {
      return 0;
    }
    int number = Integer.parseInt(arguments.get(at + 1));
    arguments.subList(at, at + 2).clear();
    return number;
  }

  /** Lets visitors come on several days, by a service whose clock is set back. */
  private void visitForDays(int visits, int days)
      throws IOException, SQLException, InterruptedException {
    VisitBench bench = new VisitBench(out);
    for (int day = 0; day < days; day++) {
      Map<String, String> environment = new LinkedHashMap<>(database.environment());
      environment.putAll(OtherClock.daysAgo(days - 1 - day));
      try (ServiceProcess service = ServiceProcess.start(folder, environment)) {
        if (day == 0) {
          fill(service.client(), false);
        }
        bench.visit(
            service.client(),
            visits / days,
            new VisitBench.Span((double) day / days, (day + 1.0) / days));
      }
    }
    out.println("all is kept in " + folder);
  }

  private void run(int accessions, boolean callsOnly, int visits)
      throws IOException, SQLException, InterruptedException {
    out.printf(
        "Mnemex bench: garden of %,d accessions on %s, %d cores, Java %s%n",
        accessions, database.name(), Runtime.getRuntime().availableProcessors(), Runtime.version());
    long start = System.nanoTime();
    try (ServiceProcess service = ServiceProcess.start(folder, database.environment())) {
      MnemexClient client = service.client();
      out.printf("start of the service: %.1f s%n", (System.nanoTime() - start) / 1e9);
      fill(client, !callsOnly && visits == 0);
      if (visits > 0) {
        visit(service, accessions, visits);
        return;
      }
      if (callsOnly) {
        new CallBench(client, out, accessions).run();
        return;
      }
      audit(client);
      search(client);
      new CallBench(client, out, accessions).run();
      lag(client);
    }
  }

  private void visit(ServiceProcess service, int accessions, int visits)
      throws IOException, SQLException, InterruptedException {
    VisitBench bench = new VisitBench(out);
    Map<String, String> environment = new LinkedHashMap<>(database.environment());
    environment.put("MNEMEX_RECORD_QUERIES", "false");
    try (ServiceProcess other = ServiceProcess.start(environment);
        BenchDatabase same = SqliteGarden.create(other.folder(), accessions)) {
      out.printf("without recording, on %s:%n", same.name());
      fill(other.client(), false);
      bench.compare(service, other);
      bench.share(service);
    }
    bench.visit(service.client(), visits, new VisitBench.Span(0, 1));
    out.println("all is kept in " + folder);
  }

  private void fill(MnemexClient client, boolean compared) throws IOException, SQLException {
    long start = System.nanoTime();
    Map<String, String> files = files("garden");
    files.putAll(database.definitions());
    client.apply(files);
    ServiceProcess.await(() -> client.indexes().getFirst().live() != null);
    double seconds = (System.nanoTime() - start) / 1e9;
    IndexStatus.Edition live = client.indexes().getFirst().live();
    if (live == null) {
      throw new IllegalStateException("the index has gone");
    }
    long records = live.documents();
    out.printf(
        "index: %.1f MB in %d segments, %.0f bytes a document with stored records%n",
        live.bytes() / 1e6, live.segments(), (double) live.bytes() / records);
    if (!compared) {
      return;
    }
    double baseline = 0;
    // The database's cache is as warm for one as for the other.
    for (int run = 0; run < 3; run++) {
      baseline = Math.max(baseline, readAsJson());
    }
    out.printf(
        "backfill: %,d records in %.2f s from apply to live; the feed %,d records/s;"
            + " one set-based JSON query %,.0f records/s; ratio %.2f%n",
        records, seconds, live.recordsPerSecond(), baseline, live.recordsPerSecond() / baseline);
  }

  private double readAsJson() throws SQLException {
    try (Connection connection = database.connect();
        Statement statement = connection.createStatement()) {
      connection.setAutoCommit(false);
      statement.setFetchSize(1000);
      long start = System.nanoTime();
      long rows = 0;
      long characters = 0;
      try (ResultSet result = statement.executeQuery(database.recordsAsJson())) {
        while (result.next()) {
          characters += result.getString(1).length();
          rows++;
        }
      }
      if (characters == 0) {
        throw new IllegalStateException("the garden is empty");
      }
      return rows * 1e9 / (System.nanoTime() - start);
    }
  }

  private void audit(MnemexClient client) {
    long id = client.audit("plants", false).id();
    ServiceProcess.await(
        () ->
            client.audits("plants").stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    AuditReport report = client.audits("plants").getFirst();
    AuditReport.Result result = report.result();
    if (result == null) {
      throw new IllegalStateException("the audit failed: " + report.statement());
    }
    out.printf(
        "audit: %,d records/s; %s%n",
        result.records() * 1000 / Math.max(1, result.millis()), report.statement());
  }

  private void search(MnemexClient client) {
    Random random = new Random(1);
    Times whole = new Times();
    Times inService = new Times();
    for (int i = 0; i < SEARCHES; i++) {
      SearchQuery query = SearchQuery.words(WORDS.get(random.nextInt(WORDS.size())));
      if (random.nextInt(3) == 0) {
        query = query.choose("height", "30..100");
      }
      long start = System.nanoTime();
      double millis = client.search("plant-search", query).millis();
      if (i >= SEARCHES / 5) {
        whole.add(System.nanoTime() - start);
        inService.add((long) (millis * 1e6));
      }
    }
    out.printf("search with 8 facets and highlights, over HTTP: %s%n", whole);
    out.printf("search with 8 facets and highlights, in the service: %s%n", inService);
  }

  /** From the commit's return to the search that finds it, beside a reader that only sees it. */
  private void lag(MnemexClient client) throws SQLException, InterruptedException {
    Times found = new Times();
    Times seen = new Times();
    try (Connection connection = database.connect();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET notes = ?, status = 'planted' WHERE accession_no = ?");
        BenchDatabase.BareReader bare = database.bareReader()) {
      bare.begin();
      for (int i = 0; i < CHANGES; i++) {
        String word = "x" + Long.toString(System.nanoTime(), 36);
        boolean measureBare = i % 2 == 0;
        long before = bare.seen();
        update.setString(1, "<p>Labelled " + word + "</p>");
        update.setString(2, Garden.number(1 + i));
        update.executeUpdate();
        long committed = System.nanoTime();
        if (measureBare) {
          while (bare.seen() == before) {
            Thread.onSpinWait();
          }
          seen.add(System.nanoTime() - committed);
        }
        SearchQuery query = SearchQuery.words(word);
        while (client.search("plant-search", query).total().count() == 0) {
          Thread.onSpinWait();
        }
        if (!measureBare) {
          found.add(System.nanoTime() - committed);
        }
      }
    }
    out.printf("lag of single changes, commit to found over HTTP: %s%n", found);
    out.printf("lag of a bare reader of the same changes: %s%n", seen);
    out.printf(
        "lag above the bare reader: p50 %.1f ms, p99 %.1f ms%n",
        found.quantile(0.5) - seen.quantile(0.5), found.quantile(0.99) - seen.quantile(0.99));
  }

  /** The definition files of an example, by name. */
  public static Map<String, String> files(String example) throws IOException {
    String home = System.getenv("MNEMEX_HOME");
    Path folder = Path.of(home == null ? "." : home, "examples", example);
    Map<String, String> files = new LinkedHashMap<>();
    try (Stream<Path> inside = Files.list(folder)) {
      for (Path file : inside.sorted().toList()) {
        files.put(String.valueOf(file.getFileName()), Files.readString(file));
      }
    }
    return files;
  }
}
