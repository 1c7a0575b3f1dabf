package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * One builder, or two that share the index, two search nodes, their store, the database and a load
 * balancer are killed, suspended, slowed and taken away at random while rows change and people
 * search, at the nodes and through the load balancer. The property {@code mnemex.faults} says how
 * many times, {@code mnemex.faults.builders} how many builders there are, {@code
 * mnemex.faults.placed} whether there are three nodes with some of the shards each, and {@code
 * mnemex.faults.postgres} whether the database is a PostgreSQL server; otherwise these are random,
 * too.
 */
class SearchNodesUnderFaultsTest {
  private static final int FAULTS = Integer.getInteger("mnemex.faults", 4);

  /** After how many faults the numbers so far are told. */
  private static final int REPORTED = 20;

  private static final long SEED = Long.getLong("mnemex.faults.seed", System.nanoTime());
  private static final boolean PLACED =
      Boolean.parseBoolean(
          System.getProperty(
              "mnemex.faults.placed", Boolean.toString(new Random(-SEED).nextInt(3) == 0)));
  private static final int BUILDERS =
      PLACED ? 2 : Integer.getInteger("mnemex.faults.builders", 1 + new Random(SEED).nextInt(2));

  private static final boolean POSTGRES =
      Boolean.parseBoolean(
          System.getProperty(
              "mnemex.faults.postgres", Boolean.toString(new Random(~SEED).nextBoolean())));

  /** Of two shards, each has one of them. */
  private static final List<String> KEYS = List.of("QB-00018", "QB-00019");

  private static final Duration PATIENCE = Duration.ofSeconds(2);

  /** The load balancer asks a few times before it gives up. */
  private static final Duration PATIENCE_WITH_BALANCER = Duration.ofSeconds(10);

  private static final String RECORDS = "/search/plant-search/records?key=";
  private static final int GATEWAY_TIMEOUT = 504;
  private static final JsonMapper JSON = JsonMapper.shared();

  @TempDir private Path temp;

  private final AtomicBoolean isOver = new AtomicBoolean();
  private final AtomicInteger written = new AtomicInteger();
  private final AtomicInteger answered = new AtomicInteger();
  private final AtomicInteger unanswered = new AtomicInteger();
  private final AtomicInteger refused = new AtomicInteger();
  private final AtomicInteger balanced = new AtomicInteger();
  private final AtomicInteger lost = new AtomicInteger();
  private final AtomicInteger cutOff = new AtomicInteger();
  private final AtomicInteger unwritten = new AtomicInteger();
  private final List<Throwable> failures = new ArrayList<>();

  private final HttpClient http = HttpClient.newBuilder().connectTimeout(PATIENCE).build();

  /** A search node, and how far its answers were since its start. */
  private static final class Node {
    final RunningService service;
    private int seen;
    private long life;

    Node(RunningService service) {
      this.service = service;
    }

    /**
     * What was known when a question was asked.
     *
     * @param seen how far answers were
     * @param life which run of the node it was
     */
    record Known(int seen, long life) {}

    synchronized Known known() {
      long now = service.pid();
      if (now != life) {
        life = now;
        seen = 0;
      }
      return new Known(seen, life);
    }

    /**
     * What a node has answered with is never gone again, as long as it runs and does not ask
     * others, which may be behind one another.
     */
    synchronized void see(int tick, Known before) {
      if (before.life == known().life && !PLACED) {
        assertThat(tick).as("an answer of %s", service.url).isGreaterThanOrEqualTo(before.seen);
        seen = Math.max(seen, tick);
      }
    }
  }

  private Thread repeat(Faults.Work work) {
    return Thread.ofPlatform()
        .start(
            () -> {
              try {
                while (!isOver.get()) {
                  work.run();
                  TimeUnit.MILLISECONDS.sleep(20);
                }
              } catch (Exception | AssertionError e) {
                synchronized (failures) {
                  failures.add(e);
                }
              }
            });
  }

  /** Whether a node has answered; what it answers must be right. */
  private boolean ask(Node node) throws InterruptedException {
    Node.Known known = node.known();
    Integer tick = ask(node.service.url, PATIENCE);
    if (tick != null) {
      node.see(tick, known);
    }
    return tick != null;
  }

  /** How far an answer is, which must be right; null if there is none. */
  private @Nullable Integer ask(URI url, Duration patience) throws InterruptedException {
    HttpResponse<String> response;
    try {
      response =
          http.send(
              HttpRequest.newBuilder(URI.create(url + RECORDS + String.join("&key=", KEYS)))
                  .timeout(patience)
                  .build(),
              HttpResponse.BodyHandlers.ofString());
    } catch (IOException e) {
      return null;
    }
    if (response.statusCode() == 503) {
      refused.incrementAndGet();
      return null;
    }
    if (response.statusCode() == GATEWAY_TIMEOUT) {
      return null;
    }
    assertThat(response.statusCode()).as(response.body()).isEqualTo(200);
    JsonNode answer = JSON.readTree(response.body());
    assertThat(answer.get("asOf").get("edition").asInt()).isEqualTo(1);
    JsonNode results = answer.get("results");
    assertThat(results.size()).isEqualTo(KEYS.size());
    int least = Integer.MAX_VALUE;
    for (JsonNode result : results) {
      String notes = result.get("fields").get("notes").asString();
      int tick = Integer.parseInt(notes.substring(notes.indexOf(' ') + 1));
      assertThat(tick).isLessThanOrEqualTo(written.get());
      least = Math.min(least, tick);
    }
    return least;
  }

  /** Of a thousand searches one may find no node, or two if there are fewer. */
  private static int few(int searches) {
    return Math.max(2, searches / 1000);
  }

  private boolean isAnswered(Balancer balancer) {
    try {
      return ask(balancer.url, PATIENCE_WITH_BALANCER) != null;
    } catch (InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  /** A search through the load balancer; while that is struck itself, nobody can answer. */
  private void searchThrough(Balancer balancer, Faults faults) {
    int turn = faults.balancerTurns();
    if (isAnswered(balancer)) {
      balanced.incrementAndGet();
    } else {
      boolean well = turn % 2 == 0 && turn == faults.balancerTurns();
      (well ? lost : cutOff).incrementAndGet();
    }
  }

  @Test
  void noAnswerIsWrongAndOneNodeAlwaysAnswers() throws Exception {
    Path store = Files.createDirectory(temp.resolve("store"));
    Random random = new Random(SEED);
    try (StruckGarden garden =
            POSTGRES ? StruckGarden.onPostgres(300) : StruckGarden.inFile(temp, 300);
        RunningService first = builder(0, store, garden);
        RunningService last = BUILDERS == 1 ? first : builder(1, store, garden);
        // One is told what is new, the other one looks for itself.
        RunningService one = node("one", store, "--mnemex.node.builder=" + first.url);
        RunningService two = node("two", store);
        RunningService three = PLACED ? node("three", store) : two;
        Balancer balancer = Balancer.start(temp, "700ms", one, two)) {
      // So that there is a tick to be read from the beginning.
      tryTick(garden);
      assertThat(unwritten).hasValue(0);
      apply(first, garden);
      apply(last, garden);
      place(
          "{name: one, url: '%s', shards: [0]}".formatted(one.url),
          "{name: two, url: '%s', shards: [0, 1]}".formatted(two.url),
          "{name: three, url: '%s', shards: [1]}".formatted(three.url));
      List<Node> nodes = Stream.of(one, two, three).distinct().map(Node::new).toList();
      nodes.forEach(node -> awaitReady(node.service));
      RunningService.await(() -> isAnswered(balancer));
      Faults faults =
          new Faults(
              random,
              List.of(first, last),
              nodes.stream().map(node -> node.service).toList(),
              store,
              garden,
              balancer,
              () -> isAnswered(balancer));
      List<Thread> threads =
          List.of(
              repeat(() -> tryTick(garden)),
              repeat(() -> ask(nodes.getFirst())),
              repeat(() -> ask(nodes.getLast())),
              repeat(() -> searchThrough(balancer, faults)),
              repeat(
                  () -> {
                    int start = random.nextInt(nodes.size());
                    boolean done =
                        ask(nodes.get(start)) || ask(nodes.get((start + 1) % nodes.size()));
                    (done ? answered : unanswered).incrementAndGet();
                  }));
      for (int fault = 0; fault < FAULTS && failures.isEmpty(); fault++) {
        faults.strike();
        nodes.forEach(node -> awaitReady(node.service));
        if (faults.done() % REPORTED == 0 && faults.done() < FAULTS) {
          // So that a long run that does not come to its end was not in vain.
          report(garden, faults);
        }
      }
      isOver.set(true);
      for (Thread thread : threads) {
        thread.join();
      }
      report(garden, faults);
      assertThat(failures).as("seed %d", SEED).isEmpty();
      assertThat(answered.get()).isPositive();
      assertThat(unanswered.get()).isLessThanOrEqualTo(few(answered.get()));
      assertThat(balanced.get()).isPositive();
      assertThat(lost.get()).isLessThanOrEqualTo(few(balanced.get()));
      AuditTest.awaitClean(first);
      AuditTest.awaitClean(last);
      try (RunningService whole = service("whole", garden)) {
        apply(whole, garden);
        for (Node node : nodes) {
          SearchNodesTest.assertSameAnswers(whole, node.service);
          assertThat(ask(node)).isTrue();
        }
      }
    }
  }

  /** What came of it so far. */
  private void report(StruckGarden garden, Faults faults) {
    System.out.printf(
        "%d builders, %s, %s, %d faults, seed %d: %,d searches were answered, %d were not, %d times a node refused;"
            + " %,d through the balancer, %d were not, and %d while it was struck; %,d changes, %d of them refused; %s%n",
        BUILDERS,
        PLACED ? "3 nodes with some shards each" : "2 nodes",
        garden.name(),
        faults.done(),
        SEED,
        answered.get(),
        unanswered.get(),
        refused.get(),
        balanced.get(),
        lost.get(),
        cutOff.get(),
        written.get(),
        unwritten.get(),
        faults);
  }

  /** Works in the folder of the garden, with data of its own. */
  private RunningService service(String data, StruckGarden garden, String... settings)
      throws IOException {
    return RunningService.configured(
        temp,
        garden.environment(),
        Stream.concat(Stream.of("--mnemex.data=" + temp.resolve(data)), Stream.of(settings))
            .toList());
  }

  private static void apply(RunningService builder, StruckGarden garden) throws IOException {
    builder.client.apply(garden.definitions());
    builder.awaitLive("plants");
  }

  private RunningService builder(int shard, Path store, StruckGarden garden) throws IOException {
    return service(
        "shard-" + shard,
        garden,
        "--mnemex.shard.number=" + shard,
        "--mnemex.shard.of=" + BUILDERS,
        "--mnemex.store.kind=folder",
        "--mnemex.store.folder=" + store);
  }

  /** Changes rows, as far as the database lets anybody. */
  private void tryTick(StruckGarden garden) {
    int next = written.get() + 1;
    written.set(next);
    try (Connection connection = garden.connect();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET notes = ? WHERE accession_no IN (?, ?)")) {
      update.setString(1, "tick " + next);
      update.setString(2, KEYS.getFirst());
      update.setString(3, KEYS.getLast());
      assertThat(update.executeUpdate()).isEqualTo(KEYS.size());
    } catch (SQLException e) {
      unwritten.incrementAndGet();
    }
  }

  private Path place(String... nodes) throws IOException {
    return Files.writeString(
        temp.resolve("placement.yaml"), "nodes: [" + String.join(", ", nodes) + "]");
  }

  private RunningService node(String name, Path store, String... more) throws IOException {
    Stream<String> placed =
        PLACED
            ? Stream.of("--mnemex.node.name=" + name, "--mnemex.node.placement=" + place())
            : Stream.of();
    return RunningService.configured(
        Files.createDirectory(temp.resolve(name)),
        Stream.concat(
                Stream.of(
                    "--mnemex.role=search",
                    "--mnemex.store.kind=folder",
                    "--mnemex.store.folder=" + store),
                Stream.concat(placed, Stream.of(more)))
            .toArray(String[]::new));
  }

  private static void awaitReady(RunningService node) {
    RunningService.await(() -> SearchNodesTest.isReady(node));
  }
}
