package org.mnemex.bench;

import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;
import org.mnemex.client.AuditReport;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Garden;

/**
 * Changes a running index ten times, in all three ways, while it is searched and its database
 * changes, each 200 times a second. No answer may fail or come from two editions, and an audit
 * after each step has to be clean.
 */
public final class ChangeBench {
  private static final int A_SECOND = 200;
  private static final long WARM_UP_MILLIS = 120_000;
  private static final int MAX_OPEN = 64;
  private static final long MAX_BEHIND_NANOS = 1_000_000_000L;
  private static final long QUIET_MILLIS = 20_000;
  private static final String ENDPOINT = "plants-by-words";
  private static final String INDEX = "plants";
  private static final List<String> WORDS =
      List.of("fern", "rose", "late frost", "slugs", "shade", "leaf mould", "damaged", "bud");

  /** What is replaced in the index definition, one after the other. */
  private static final List<String[]> CHANGES =
      List.of(
          new String[] {"weight: 8", "weight: 9"},
          new String[] {"analyser: french", "analyser: words"},
          new String[] {"'edition a'", "'edition b'"},
          new String[] {"title: Genus", "title: Genera"},
          new String[] {"clean: [strip_html, squeeze]", "clean: [strip_html]"},
          new String[] {"'edition b'", "'edition c'"},
          new String[] {"weight: 9", "weight: 7"},
          new String[] {"analyser: german", "analyser: words"},
          new String[] {"'edition c'", "'edition d'"},
          new String[] {"title: Genera", "title: Genus"});

  private final PrintStream out;
  private final ServerGarden garden;
  private final MnemexClient client;
  private final Map<String, Times> times = new LinkedHashMap<>();
  private final Map<Integer, String> marks = new ConcurrentHashMap<>();
  private final AtomicBoolean done = new AtomicBoolean();
  private final AtomicLong failed = new AtomicLong();
  private final AtomicLong mixed = new AtomicLong();
  private final AtomicLong omitted = new AtomicLong();
  private volatile String phase = "before";
  private volatile String firstFailure = "";

  private ChangeBench(PrintStream out, ServerGarden garden, MnemexClient client) {
    this.out = out;
    this.garden = garden;
    this.client = client;
  }

  /** Measures and prints: {@code [ACCESSIONS]}. */
  public static void main(String[] args) throws Exception {
    int accessions = args.length == 0 ? 6000 : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    try (ServerGarden garden = ServerGarden.onPostgres(accessions);
        ServiceProcess service = ServiceProcess.start(garden.environment())) {
      out.printf(
          "Mnemex bench change: %,d accessions on PostgreSQL, %d queries and %d changes a second, %d cores, Java %s%n",
          accessions,
          A_SECOND,
          A_SECOND,
          Runtime.getRuntime().availableProcessors(),
          Runtime.version());
      new ChangeBench(out, garden, service.client()).run(accessions);
    }
  }

  private void run(int accessions) throws Exception {
    Map<String, String> files = new LinkedHashMap<>(GardenBench.files("garden"));
    files.putAll(garden.definitions());
    String plants =
        files.keySet().stream()
            .filter(name -> files.get(name).contains("record:"))
            .findFirst()
            .orElseThrow();
    files.compute(
        plants,
        (name, text) -> text + "  mark: {sql: \"'edition a'\", type: exact, uses: [show]}\n");
    files.put(
        "bench.yaml", "endpoint: %s\nindex: %s\nshow: [mark, name]\n".formatted(ENDPOINT, INDEX));
    client.apply(files);
    awaitLive();
    Thread searching = Thread.ofPlatform().daemon().start(this::search);
    Thread changing = Thread.ofPlatform().daemon().start(() -> change(accessions));
    phase = "warming up";
    Thread.sleep(WARM_UP_MILLIS);
    phase = "before";
    Thread.sleep(QUIET_MILLIS);
    int step = 0;
    for (String[] edit : CHANGES) {
      step++;
      files.compute(plants, (name, text) -> replaced(text, edit));
      String cost = String.valueOf(client.plan(files).cost());
      phase = cost;
      client.apply(files);
      awaitLive();
      String first = audit();
      String more = "";
      if (!cost.equals("at once")) {
        phase = "rolled back";
        client.rollback(INDEX);
        more = "; rolled back, " + audit();
        phase = "rolled forth";
        client.rollback(INDEX);
        more += "; rolled forth, " + audit();
      }
      out.printf("%2d. %-13s %s%s%n", step, cost, first, more);
    }
    phase = "after";
    Thread.sleep(QUIET_MILLIS);
    done.set(true);
    searching.join();
    changing.join();
    long asked = 0;
    for (Map.Entry<String, Times> entry : times.entrySet()) {
      out.printf("%-13s %s%n", entry.getKey(), entry.getValue());
      asked += entry.getValue().count();
    }
    out.printf(
        "%,d queries: %d failed, %d from two editions; %,d more were due and not asked%n",
        asked, failed.get(), mixed.get(), omitted.get());
    if (failed.get() > 0) {
      out.println("first failure: " + firstFailure);
    }
  }

  private static String replaced(String text, String[] edit) {
    String after = text.replace(edit[0], edit[1]);
    if (after.equals(text)) {
      throw new IllegalStateException("the definition has no " + edit[0]);
    }
    return after;
  }

  /**
   * Asks at a fixed pace, whether or not earlier answers have come, except while so many are open
   * that the service is plainly overrun.
   */
  private void search() {
    SplittableRandom random = new SplittableRandom(1);
    Semaphore open = new Semaphore(MAX_OPEN);
    try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
      long due = System.nanoTime();
      while (!done.get()) {
        due += 1_000_000_000L / A_SECOND;
        LockSupport.parkNanos(due - System.nanoTime());
        if (System.nanoTime() - due > MAX_BEHIND_NANOS || !open.tryAcquire()) {
          // Users do not queue for minutes either; what was not asked is counted.
          omitted.incrementAndGet();
          continue;
        }
        String words = WORDS.get(random.nextInt(WORDS.size()));
        long start = due;
        threads.execute(
            () -> {
              try {
                ask(words, start);
              } finally {
                open.release();
              }
            });
      }
    }
  }

  private void ask(String words, long start) {
    String then = phase;
    try {
      SearchAnswer answer = client.search(ENDPOINT, SearchQuery.words(words));
      long took = System.nanoTime() - start;
      synchronized (times) {
        times.computeIfAbsent(then, name -> new Times()).add(took);
      }
      List<String> seen =
          answer.results().stream()
              .map(r -> String.valueOf(r.fields().get("mark")))
              .distinct()
              .toList();
      if (seen.size() > 1
          || !seen.isEmpty()
              && !marks
                  .computeIfAbsent(answer.asOf().edition(), e -> seen.getFirst())
                  .equals(seen.getFirst())) {
        mixed.incrementAndGet();
      }
    } catch (RuntimeException e) {
      if (failed.incrementAndGet() == 1) {
        firstFailure = String.valueOf(e);
      }
    }
  }

  private void change(int accessions) {
    SplittableRandom random = new SplittableRandom(2);
    try (Connection connection = garden.connect();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET visitor_interest = visitor_interest + 1 WHERE accession_no = ?")) {
      long due = System.nanoTime();
      while (!done.get()) {
        due += 1_000_000_000L / A_SECOND;
        LockSupport.parkNanos(due - System.nanoTime());
        update.setString(1, Garden.number(1 + random.nextInt(accessions)));
        update.executeUpdate();
      }
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  private IndexStatus index() {
    return client.indexes().stream().filter(i -> i.name().equals(INDEX)).findFirst().orElseThrow();
  }

  private void awaitLive() {
    ServiceProcess.await(() -> index().live() != null && index().next() == null);
  }

  private String audit() {
    ServiceProcess.await(() -> index().fresh());
    long id = client.audit(INDEX, false).id();
    ServiceProcess.await(
        () ->
            client.audits(INDEX).stream()
                .anyMatch(report -> report.id() == id && !report.state().equals("running")));
    AuditReport report = client.audits(INDEX).getFirst();
    AuditReport.Result result = report.result();
    return result == null
        ? "audit failed: " + report.statement()
        : "%d missing, %d stale, %d extra"
            .formatted(result.missing().size(), result.stale().size(), result.extra().size());
  }
}
