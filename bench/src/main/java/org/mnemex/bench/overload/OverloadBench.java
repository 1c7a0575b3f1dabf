package org.mnemex.bench.overload;

import java.io.IOException;
import java.io.PrintStream;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.time.Instant;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.mnemex.bench.GardenBench;
import org.mnemex.bench.ServiceProcess;
import org.mnemex.bench.SqliteGarden;
import org.mnemex.bench.Times;
import org.mnemex.client.Change;
import org.mnemex.client.MnemexClient;

/**
 * Gives the packaged service ten times the searches that it can answer, together with callers who
 * hold event streams, send slowly and send far too much, while its database changes and somebody
 * administers it; and measures before, meanwhile and afterwards. Run it with {@code ./mnemex bench
 * overload [SECONDS]}.
 */
public final class OverloadBench {
  private static final int ACCESSIONS = 6_000;
  private static final int SECONDS = 120;
  private static final int QUIET_SECONDS = 30;
  private static final int WARM_SECONDS = 30;

  /** Twice as many as compute at once on two processors. */
  private static final int CLOSED_CALLERS = 4;

  private static final int OVERLOAD = 10;
  private static final int OVERLOAD_CALLERS = 1_000;
  private static final int MAX_CHANGES_LISTED = 1_000;
  private static final String MEMORY = "512m";

  private final PrintStream out;
  private final ServiceProcess service;
  private final URI uri;
  private final SqliteGarden garden;

  private OverloadBench(PrintStream out, ServiceProcess service, SqliteGarden garden) {
    this.out = out;
    this.service = service;
    this.uri = service.uri();
    this.garden = garden;
  }

  /** Measures and prints: {@code [SECONDS]}. */
  public static void main(String[] args) throws Exception {
    int seconds = args.length == 0 ? SECONDS : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    try (ServiceProcess service =
        ServiceProcess.start(Map.of("MNEMEX_JAVA_OPTIONS", "-Xmx" + MEMORY))) {
      SqliteGarden garden = SqliteGarden.create(service.folder(), ACCESSIONS);
      new OverloadBench(out, service, garden).run(seconds);
    }
  }

  private void run(int seconds) throws IOException, SQLException, InterruptedException {
    MnemexClient client = service.client();
    client.apply(GardenBench.files("garden"));
    ServiceProcess.await(() -> client.indexes().getFirst().live() != null);
    Searches warm = searchesFor(WARM_SECONDS, CLOSED_CALLERS, Double.POSITIVE_INFINITY);
    Searches most = searchesFor(QUIET_SECONDS, CLOSED_CALLERS, Double.POSITIVE_INFINITY);
    double rate = most.answered().count() / (double) QUIET_SECONDS;
    out.printf(
        "Mnemex bench overload: %,d accessions, %d cores, Java %s, a heap of %s; %,d searches to warm up;"
            + " at most %,.0f searches/s with %d callers%n",
        ACCESSIONS,
        Runtime.getRuntime().availableProcessors(),
        Runtime.version(),
        MEMORY,
        warm.answered().count(),
        rate,
        CLOSED_CALLERS);
    out.println(
        "phase    | answered/s  ms | refused/s  ms | failed | due, skipped | lag ms | administration ms | largest heap MB");
    phase("before", QUIET_SECONDS, CLOSED_CALLERS, rate / 2);
    BadCallers bad = new BadCallers(uri);
    bad.start();
    phase("overload", seconds, OVERLOAD_CALLERS, OVERLOAD * rate);
    bad.end();
    out.println(bad);
    phase("after", QUIET_SECONDS, CLOSED_CALLERS, rate / 2);
    long id = client.audit("plants", false).id();
    ServiceProcess.await(
        () ->
            client.audits("plants").stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    out.println("audit: " + client.audits("plants").getFirst().statement());
  }

  private Searches searchesFor(int seconds, int callers, double rate) throws InterruptedException {
    Searches searches = new Searches(uri);
    searches.run(callers, rate, TimeUnit.SECONDS.toNanos(seconds));
    return searches;
  }

  private void phase(String name, int seconds, int callers, double rate)
      throws IOException, SQLException, InterruptedException {
    Instant begin = Instant.now();
    try (Observer observer = Observer.start(uri, garden)) {
      Searches searches = searchesFor(seconds, callers, rate);
      observer.close();
      Times lag = new Times();
      for (Change change : service.client().changes("plants", MAX_CHANGES_LISTED)) {
        if (change.committed().isAfter(begin)) {
          lag.add(TimeUnit.MILLISECONDS.toNanos(change.lagMillis()));
        }
      }
      out.printf(
          "%-8s | %,.0f  %s | %,.0f  %s | %,d | %,.0f/s, %,d | %s (%d changes) | %s (%d calls) | %,.0f%n",
          name,
          searches.answered().count() / (double) seconds,
          shown(searches.answered()),
          searches.refused().count() / (double) seconds,
          shown(searches.refused()),
          searches.failed(),
          rate,
          searches.skipped(),
          shown(lag),
          lag.count(),
          shown(observer.administration()),
          observer.administration().count(),
          observer.largestHeap() / 1e6);
    }
  }

  /** Median, 99th percentile and maximum, in milliseconds. */
  private static String shown(Times times) {
    return times.count() == 0
        ? "-"
        : "%,.0f / %,.0f / %,.0f"
            .formatted(times.quantile(0.5), times.quantile(0.99), times.quantile(1));
  }
}
