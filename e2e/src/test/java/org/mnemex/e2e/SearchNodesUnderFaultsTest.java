package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
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
 * One builder, or two that share the index, two search nodes and their store are killed, suspended
 * and taken away at random while rows change and people search, at the nodes and through a load
 * balancer. The property {@code mnemex.faults} says how many times, {@code mnemex.faults.builders}
 * how many builders there are, and {@code mnemex.faults.placed} whether there are three nodes with
 * some of the shards each; otherwise that is random, too.
 */
class SearchNodesUnderFaultsTest {
  private static final int FAULTS = Integer.getInteger("mnemex.faults", 4);
  private static final long SEED = Long.getLong("mnemex.faults.seed", System.nanoTime());
  private static final boolean PLACED =
      Boolean.parseBoolean(
          System.getProperty(
              "mnemex.faults.placed", Boolean.toString(new Random(-SEED).nextInt(3) == 0)));
  private static final int BUILDERS =
      PLACED ? 2 : Integer.getInteger("mnemex.faults.builders", 1 + new Random(SEED).nextInt(2));

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
  private final List<Throwable> failures = new ArrayList<>();

  private final HttpClient http = HttpClient.newBuilder().connectTimeout(PATIENCE).build();

  /** A search node, and how far its answers were since its start. */
  private static final class Node {
    final RunningService service;
    private int seen;
    private int lives;

    Node(RunningService service) {
      this.service = service;
    }

    /**
     * What was known when a question was asked.
     *
     * @param seen how far answers were
     * @param life which run of the node it was
     */
    record Known(int seen, int life) {}

    synchronized Known known() {
      return new Known(seen, lives);
    }

    /**
     * What a node has answered with is never gone again, as long as it runs and does not ask
     * others, which may be behind one another.
     */
    synchronized void see(int tick, Known before) {
      if (lives == before.life && !PLACED) {
        assertThat(tick).as("an answer of %s", service.url).isGreaterThanOrEqualTo(before.seen);
        seen = Math.max(seen, tick);
      }
    }

    synchronized void dies() {
      lives++;
      seen = 0;
    }
  }

  /** Work that may fail. */
  private interface Work {
    void run() throws Exception;
  }

  private Thread repeat(Work work) {
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

  private static void signal(RunningService service, String name) throws Exception {
    new ProcessBuilder("kill", "-" + name, Long.toString(service.pid())).start().waitFor();
  }

  @Test
  void noAnswerIsWrongAndOneNodeAlwaysAnswers() throws Exception {
    Path store = Files.createDirectory(temp.resolve("store"));
    Path garden = GardenFiles.create(temp, 300);
    tick(garden);
    Random random = new Random(SEED);
    List<RunningService> builders = new ArrayList<>();
    try (RunningService first = builder(0, store);
        RunningService last = BUILDERS == 1 ? first : builder(1, store);
        // One is told what is new, the other one looks for itself.
        RunningService one = node("one", store, "--mnemex.node.builder=" + first.url);
        RunningService two = node("two", store);
        RunningService three = PLACED ? node("three", store) : two;
        Balancer balancer = Balancer.start(temp, "700ms", one, two)) {
      builders.add(first);
      builders.add(last);
      first.applyGarden();
      last.applyGarden();
      place(
          "{name: one, url: '%s', shards: [0]}".formatted(one.url),
          "{name: two, url: '%s', shards: [0, 1]}".formatted(two.url),
          "{name: three, url: '%s', shards: [1]}".formatted(three.url));
      List<Node> nodes = Stream.of(one, two, three).distinct().map(Node::new).toList();
      nodes.forEach(node -> awaitReady(node.service));
      RunningService.await(() -> isAnswered(balancer));
      List<Thread> threads =
          List.of(
              repeat(() -> tick(garden)),
              repeat(() -> ask(nodes.getFirst())),
              repeat(() -> ask(nodes.getLast())),
              repeat(() -> (isAnswered(balancer) ? balanced : lost).incrementAndGet()),
              repeat(
                  () -> {
                    int start = random.nextInt(nodes.size());
                    boolean done =
                        ask(nodes.get(start)) || ask(nodes.get((start + 1) % nodes.size()));
                    (done ? answered : unanswered).incrementAndGet();
                  }));
      for (int fault = 0; fault < FAULTS && failures.isEmpty(); fault++) {
        strike(
            random.nextInt(6),
            random,
            builders.get(random.nextInt(2)),
            nodes.get(random.nextInt(nodes.size())),
            store);
        nodes.forEach(node -> awaitReady(node.service));
      }
      isOver.set(true);
      for (Thread thread : threads) {
        thread.join();
      }
      System.out.printf(
          "%d builders, %s, %d faults, seed %d: %,d searches were answered, %d were not, %d times a node refused;"
              + " %,d through the balancer, %d were not; %,d changes%n",
          BUILDERS,
          PLACED ? "3 nodes with some shards each" : "2 nodes",
          FAULTS,
          SEED,
          answered.get(),
          unanswered.get(),
          refused.get(),
          balanced.get(),
          lost.get(),
          written.get());
      assertThat(failures).as("seed %d", SEED).isEmpty();
      assertThat(answered.get()).isPositive();
      assertThat(unanswered.get()).isLessThanOrEqualTo(few(answered.get()));
      assertThat(balanced.get()).isPositive();
      assertThat(lost.get()).isLessThanOrEqualTo(few(balanced.get()));
      AuditTest.awaitClean(first);
      AuditTest.awaitClean(last);
      try (RunningService whole = service("whole")) {
        whole.applyGarden();
        for (Node node : nodes) {
          SearchNodesTest.assertSameAnswers(whole, node.service);
          assertThat(ask(node)).isTrue();
        }
      }
    }
  }

  /** Works in the folder of the garden, with data of its own. */
  private RunningService service(String data, String... settings) throws IOException {
    return RunningService.configured(
        temp,
        Stream.concat(Stream.of("--mnemex.data=" + temp.resolve(data)), Stream.of(settings))
            .toArray(String[]::new));
  }

  private RunningService builder(int shard, Path store) throws IOException {
    return service(
        "shard-" + shard,
        "--mnemex.shard.number=" + shard,
        "--mnemex.shard.of=" + BUILDERS,
        "--mnemex.store.kind=folder",
        "--mnemex.store.folder=" + store);
  }

  private void tick(Path garden) throws Exception {
    int next = written.get() + 1;
    written.set(next);
    int changed =
        GardenFiles.run(
            garden,
            "UPDATE accession SET notes = ? WHERE accession_no IN (?, ?)",
            "tick " + next,
            KEYS.getFirst(),
            KEYS.getLast());
    assertThat(changed).isEqualTo(KEYS.size());
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

  /** One fault, and its end. */
  private void strike(int kind, Random random, RunningService builder, Node node, Path store)
      throws Exception {
    RunningService struck = kind < 2 ? node.service : builder;
    long millis = random.nextLong(300, 1800);
    switch (kind) {
      case 0, 2 -> {
        struck.kill();
        TimeUnit.MILLISECONDS.sleep(random.nextInt(300));
        if (kind == 0) {
          node.dies();
        }
        struck.restart();
      }
      case 1, 3 -> {
        signal(struck, "STOP");
        TimeUnit.MILLISECONDS.sleep(millis);
        signal(struck, "CONT");
      }
      case 4 -> {
        Path away = store.resolveSibling("away");
        Files.move(store, away);
        TimeUnit.MILLISECONDS.sleep(millis);
        Files.move(away, store);
      }
      default -> {
        // Both at once: what is published while a node does not look.
        signal(node.service, "STOP");
        builder.kill();
        builder.restart();
        signal(node.service, "CONT");
      }
    }
  }
}
