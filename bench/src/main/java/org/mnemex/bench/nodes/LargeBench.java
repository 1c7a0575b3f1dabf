package org.mnemex.bench.nodes;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.stream.IntStream;
import org.mnemex.bench.ServiceProcess;
import org.mnemex.bench.Vocabulary;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.server.Folders;

/**
 * A large index in several shards beside the same in one, all on this machine: how fast they are
 * filled, how soon a search node has the shards, what a search costs where all shards are and where
 * other nodes are asked for half of them, and how soon a change is there.
 */
public final class LargeBench {
  private static final int ROWS = 10_000_000;
  private static final int SHARDS = 4;
  private static final double MB = 1e6;

  /** So that all processes fit into one machine's memory beside the files. */
  private static final String HEAP = "-Xmx1g";

  private static final int FREQUENT = 300;
  private static final int RARE = 200_000;

  private final PrintStream out;
  private final SeedLots lots;
  private final Path folder;
  private final int shards;
  private final List<ServiceProcess> processes = new ArrayList<>();

  private LargeBench(PrintStream out, SeedLots lots, Path folder, int shards) {
    this.out = out;
    this.lots = lots;
    this.folder = folder;
    this.shards = shards;
  }

  /** Measures and prints: {@code [ROWS [SHARDS]]}. */
  public static void main(String[] args) throws Exception {
    int rows = args.length == 0 ? ROWS : Integer.parseInt(args[0]);
    int shards = args.length < 2 ? SHARDS : Integer.parseInt(args[1]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    Path folder = Files.createTempDirectory("mnemex-bench");
    long start = System.nanoTime();
    try (SeedLots lots = SeedLots.create(rows)) {
      out.printf(
          "Mnemex bench large: %,d rows on PostgreSQL, %,.0f MB, made in %.0f s; %d cores, Java %s %s%n",
          rows,
          lots.bytes() / MB,
          seconds(start),
          Runtime.getRuntime().availableProcessors(),
          Runtime.version(),
          HEAP);
      LargeBench bench = new LargeBench(out, lots, folder, shards);
      try {
        bench.run();
      } finally {
        for (ServiceProcess process : bench.processes.reversed()) {
          process.close();
        }
      }
    } finally {
      Folders.delete(folder);
    }
  }

  private static double seconds(long since) {
    return (System.nanoTime() - since) / 1e9;
  }

  private void run() throws Exception {
    Files.createDirectory(folder.resolve("store"));
    MnemexClient whole = start("whole", Map.of());
    fill("one builder", List.of(whole));
    List<MnemexClient> builders = new ArrayList<>();
    for (int shard = 0; shard < shards; shard++) {
      builders.add(
          start(
              "shard-" + shard,
              Map.of(
                  "MNEMEX_SHARD_NUMBER", Integer.toString(shard),
                  "MNEMEX_SHARD_OF", Integer.toString(shards))));
    }
    fill("%d builders at once".formatted(shards), builders);
    long begun = System.nanoTime();
    ServiceProcess.await(
        () -> builders.stream().noneMatch(one -> one.store().editions().isEmpty()));
    out.printf("  all is in the store %.1f s later%n", seconds(begun));

    NodeMeasures measures = new NodeMeasures(out, lots, 100, 60);
    Path all = Files.createDirectory(folder.resolve("all"));
    Map<String, String> node = environment(Map.of("MNEMEX_ROLE", "search"));
    measures.start("a node with nothing", all, node).close();
    ServiceProcess one = measures.start("a node with a full cache", all, node);
    processes.add(one);

    MnemexClient front = placed(measures);
    Map<String, MnemexClient> services = new LinkedHashMap<>();
    services.put("in one shard", whole);
    services.put("at a node with %d shards".formatted(shards), one.client());
    services.put("at a node that asks for half of them", front);
    search(measures, services);
    measures.changes(whole, one.client(), builders);
  }

  private Map<String, String> environment() {
    Map<String, String> all = new HashMap<>(lots.environment());
    all.put("MNEMEX_JAVA_OPTIONS", HEAP);
    return all;
  }

  private Map<String, String> environment(Map<String, String> more) {
    Map<String, String> all = environment();
    all.put("MNEMEX_STORE_KIND", "folder");
    all.put("MNEMEX_STORE_FOLDER", folder.resolve("store").toString());
    all.putAll(more);
    return all;
  }

  /** A builder; one of all records publishes nothing. */
  private MnemexClient start(String name, Map<String, String> shard)
      throws IOException, InterruptedException {
    ServiceProcess builder =
        ServiceProcess.start(
            Files.createDirectory(folder.resolve(name)),
            shard.isEmpty() ? environment() : environment(shard));
    processes.add(builder);
    return builder.client();
  }

  private void fill(String what, List<MnemexClient> builders) throws IOException {
    long begun = System.nanoTime();
    for (MnemexClient builder : builders) {
      builder.apply(SeedLots.definitions());
    }
    ServiceProcess.await(
        () -> builders.stream().allMatch(one -> one.index(SeedLots.INDEX).live() != null));
    double took = seconds(begun);
    List<IndexStatus.Edition> editions =
        builders.stream()
            .map(one -> Objects.requireNonNull(one.index(SeedLots.INDEX).live()))
            .toList();
    long documents = editions.stream().mapToLong(IndexStatus.Edition::documents).sum();
    long bytes = editions.stream().mapToLong(IndexStatus.Edition::bytes).sum();
    out.printf(
        "%s: %,d documents in %.0f s, %,.0f a second; %,.0f MB, %.0f bytes a document%n",
        what, documents, took, documents / took, bytes / MB, (double) bytes / documents);
  }

  /** Two nodes with half of the shards each; one of them. */
  private MnemexClient placed(NodeMeasures measures) throws IOException, InterruptedException {
    Path placement = Files.writeString(folder.resolve("placement.yaml"), "nodes: []");
    List<String> lines = new ArrayList<>();
    List<MnemexClient> nodes = new ArrayList<>();
    for (int i = 0; i < 2; i++) {
      int half = i;
      String name = "half-" + i;
      ServiceProcess node =
          ServiceProcess.start(
              Files.createDirectory(folder.resolve(name)),
              environment(
                  Map.of(
                      "MNEMEX_ROLE",
                      "search",
                      "MNEMEX_NODE_NAME",
                      name,
                      "MNEMEX_NODE_PLACEMENT",
                      placement.toString())));
      processes.add(node);
      nodes.add(node.client());
      lines.add(
          "{name: %s, url: '%s', shards: %s}"
              .formatted(
                  name,
                  node.uri(),
                  IntStream.range(0, shards).filter(shard -> shard % 2 == half).boxed().toList()));
    }
    Files.writeString(placement, "nodes: [" + String.join(", ", lines) + "]");
    measures.awaitAnswers(nodes.getFirst());
    return nodes.getFirst();
  }

  private void search(NodeMeasures measures, Map<String, MnemexClient> services) {
    Vocabulary words = lots.vocabulary();
    Random random = new Random(1);
    measures.searches(
        "two words, two facets and the total",
        services,
        () -> SearchQuery.words(frequent(words, random) + " " + frequent(words, random)));
    measures.searches(
        "three words, the best ten",
        services,
        () ->
            SearchQuery.words(
                    frequent(words, random)
                        + " "
                        + frequent(words, random)
                        + " "
                        + frequent(words, random))
                .counts(List.of())
                .total(false));
    measures.searches(
        "a rare word", services, () -> SearchQuery.words(words.word(random.nextInt(RARE))));
  }

  private static String frequent(Vocabulary words, Random random) {
    return words.word(random.nextInt(FREQUENT));
  }
}
