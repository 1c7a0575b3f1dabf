package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.StoreStatus;
import org.mnemex.client.UnreachableException;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.Folders;

/**
 * A search node beside its builder, both on this machine and with a store in a folder: how soon it
 * starts, how fast it searches, and, with and without news from the builder, how soon a change is
 * there, and what both use of the store.
 */
public final class NodesBench {
  private static final int CHANGES = 150;
  private static final int WORD_LENGTH = 12;
  private static final int MAX_PAUSE_MILLIS = 1000;
  private static final long POLL_MILLIS = 5;
  private static final int SEARCHES = 500;
  private static final long WATCHED_MILLIS = 60_000;
  private static final double DAY_MILLIS = 86_400_000;
  private static final double MB = 1e6;
  private static final List<String> WORDS =
      List.of("fern", "shade", "slugs", "rose", "frost", "fungus", "mulched", "maple");

  private final PrintStream out;
  private final SqliteGarden garden;
  private final MnemexClient builder;

  private NodesBench(PrintStream out, SqliteGarden garden, MnemexClient builder) {
    this.out = out;
    this.garden = garden;
    this.builder = builder;
  }

  /** Measures and prints: {@code [ACCESSIONS]}. */
  public static void main(String[] args) throws Exception {
    int accessions = args.length == 0 ? Garden.USUAL_ACCESSIONS : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    Path folder = Files.createTempDirectory("mnemex-bench");
    Path nodeFolder = Files.createDirectory(folder.resolve("node"));
    Path store = Files.createDirectory(folder.resolve("store"));
    Map<String, String> environment =
        new HashMap<>(
            Map.of("MNEMEX_STORE_KIND", "folder", "MNEMEX_STORE_FOLDER", store.toString()));
    try (SqliteGarden garden = SqliteGarden.create(folder, accessions);
        ServiceProcess service = ServiceProcess.start(folder, environment)) {
      MnemexClient builder = service.client();
      Map<String, String> files = new LinkedHashMap<>(GardenBench.files("garden"));
      builder.apply(files);
      ServiceProcess.await(() -> builder.indexes().getFirst().live() != null);
      out.printf(
          "Mnemex bench nodes: garden of %,d accessions, %d cores, Java %s%n",
          accessions, Runtime.getRuntime().availableProcessors(), Runtime.version());
      long begun = System.nanoTime();
      ServiceProcess.await(() -> !builder.store().editions().isEmpty());
      StoreStatus.Edition edition = builder.store().editions().getFirst();
      out.printf(
          "published %,.1f MB in %d files %.1f s after the edition was live%n",
          edition.bytes() / MB, edition.files(), seconds(begun));
      environment.put("MNEMEX_ROLE", "search");
      start("nothing", nodeFolder, environment, out).close();
      try (ServiceProcess node = start("a full cache", nodeFolder, environment, out)) {
        NodesBench bench = new NodesBench(out, garden, builder);
        bench.searches(node.client());
        out.println("a node that looks into the store by itself:");
        bench.changes(node.client());
      }
      environment.put("MNEMEX_NODE_BUILDER", builder.service().toString());
      try (ServiceProcess node = start("a full cache", nodeFolder, environment, out)) {
        ServiceProcess.await(() -> !builder.nodes().isEmpty());
        out.println("a node that its builder tells what is new:");
        new NodesBench(out, garden, builder).changes(node.client());
      }
    } finally {
      Folders.delete(folder);
    }
  }

  private static double seconds(long since) {
    return (System.nanoTime() - since) / 1e9;
  }

  private static ServiceProcess start(
      String from, Path folder, Map<String, String> environment, PrintStream out)
      throws IOException, InterruptedException {
    long begun = System.nanoTime();
    ServiceProcess node = ServiceProcess.start(folder, environment);
    while (!answers(node.client())) {
      Thread.sleep(POLL_MILLIS);
    }
    out.printf("a node with %s answers after %.1f s%n", from, seconds(begun));
    return node;
  }

  private static boolean answers(MnemexClient node) {
    try {
      return node.search("plant-search", SearchQuery.words("fern")).found() > 0;
    } catch (ProblemException | UnreachableException e) {
      return false;
    }
  }

  private void changes(MnemexClient node) throws Exception {
    try (Connection connection = garden.connect();
        PreparedStatement update =
            connection.prepareStatement(
                "UPDATE accession SET notes = ? WHERE accession_no = 'QB-00017'");
        ExecutorService watching = Executors.newFixedThreadPool(2)) {
      Times there = new Times();
      Times here = new Times();
      Random random = new Random(1);
      for (int i = 0; i < CHANGES; i++) {
        // Far from each other, so that none is found as a misspelling of another.
        String word =
            random
                .ints(WORD_LENGTH, 'a', 'z' + 1)
                .collect(StringBuilder::new, StringBuilder::appendCodePoint, StringBuilder::append)
                .toString();
        update.setString(1, "Beside the " + word);
        update.executeUpdate();
        long changed = System.nanoTime();
        List<Callable<Boolean>> both =
            List.of(watch(builder, word, changed, here), watch(node, word, changed, there));
        for (Future<Boolean> one : watching.invokeAll(both)) {
          one.get();
        }
        Thread.sleep(random.nextInt(MAX_PAUSE_MILLIS));
      }
      out.printf("a change is found at the builder: %s%n", here);
      out.printf("the same at the node:             %s%n", there);
      use("nothing changes", node, null);
      use("five changes a second", node, update);
    }
  }

  private static Callable<Boolean> watch(
      MnemexClient client, String word, long changed, Times times) {
    return () -> {
      while (client.search("plant-search", SearchQuery.words(word)).found() == 0) {
        Thread.sleep(POLL_MILLIS);
      }
      times.add(System.nanoTime() - changed);
      return true;
    };
  }

  private void searches(MnemexClient node) {
    Times here = new Times();
    Times there = new Times();
    Random random = new Random(1);
    for (int i = 0; i < 2 * SEARCHES; i++) {
      SearchQuery query =
          SearchQuery.words(
              WORDS.get(random.nextInt(WORDS.size()))
                  + " "
                  + WORDS.get(random.nextInt(WORDS.size())));
      boolean counts = i >= SEARCHES;
      time(builder, query, counts ? here : new Times());
      time(node, query, counts ? there : new Times());
    }
    out.printf("a search at the builder: %s%n", here);
    out.printf("the same at the node:    %s%n", there);
  }

  private static void time(MnemexClient client, SearchQuery query, Times times) {
    long start = System.nanoTime();
    client.search("plant-search", query);
    times.add(System.nanoTime() - start);
  }

  private void use(String when, MnemexClient node, @Nullable PreparedStatement update)
      throws InterruptedException, SQLException {
    StoreStatus.Traffic builderBefore = traffic(builder);
    StoreStatus.Traffic nodeBefore = traffic(node);
    long begun = System.nanoTime();
    int changes = 0;
    while (seconds(begun) * 1000 < WATCHED_MILLIS) {
      Thread.sleep(200);
      if (update != null) {
        update.setString(1, "Changed " + changes++);
        update.executeUpdate();
      }
    }
    double days = seconds(begun) * 1000 / DAY_MILLIS;
    out.printf("in a day in which %s:%n", when);
    print("  the builder", builderBefore, traffic(builder), days);
    print("  a node     ", nodeBefore, traffic(node), days);
  }

  private void print(
      String who, StoreStatus.Traffic before, StoreStatus.Traffic after, double days) {
    out.printf(
        "%s: %,.0f requests, %,.0f MB read, %,.0f MB written%n",
        who,
        (after.requests() - before.requests()) / days,
        (after.readBytes() - before.readBytes()) / MB / days,
        (after.writtenBytes() - before.writtenBytes()) / MB / days);
  }

  private static StoreStatus.Traffic traffic(MnemexClient client) {
    StoreStatus.Traffic traffic = client.store().traffic();
    if (traffic == null) {
      throw new IllegalStateException("there is no store");
    }
    return traffic;
  }
}
