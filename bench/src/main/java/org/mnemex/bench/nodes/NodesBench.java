package org.mnemex.bench.nodes;

import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.mnemex.bench.GardenBench;
import org.mnemex.bench.ServiceProcess;
import org.mnemex.bench.SqliteGarden;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.StoreStatus;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.Folders;

/**
 * A search node beside its builder, both on this machine and with a store in a folder: how soon it
 * starts, how fast it searches, and, with and without news from the builder, how soon a change is
 * there, and what both use of the store.
 */
public final class NodesBench {
  private static final double MB = 1e6;
  private static final String FULL_CACHE = "a node with a full cache";
  private static final List<String> WORDS =
      List.of("fern", "shade", "slugs", "rose", "frost", "fungus", "mulched", "maple");

  private NodesBench() {}

  /** The garden and its plants. */
  private record Plants(SqliteGarden garden) implements Subject {
    @Override
    public String endpoint() {
      return "plant-search";
    }

    @Override
    public String word() {
      return WORDS.getFirst();
    }

    @Override
    public Connection connect() throws SQLException {
      return garden.connect();
    }

    @Override
    public String change() {
      return "UPDATE accession SET notes = ? WHERE accession_no = 'QB-00017'";
    }
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
      NodeMeasures measures = new NodeMeasures(out, new Plants(garden), 500, 150);
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
          edition.bytes() / MB, edition.files(), (System.nanoTime() - begun) / 1e9);
      environment.put("MNEMEX_ROLE", "search");
      measures.start("a node with nothing", nodeFolder, environment).close();
      try (ServiceProcess node = measures.start(FULL_CACHE, nodeFolder, environment)) {
        Map<String, MnemexClient> both = new LinkedHashMap<>();
        both.put("at the builder", builder);
        both.put("at the node", node.client());
        Random random = new Random(1);
        measures.searches("two words, all facets", both, () -> twoWords(random));
        out.println("a node that looks into the store by itself:");
        measures.changes(builder, node.client(), List.of(builder));
      }
      environment.put("MNEMEX_NODE_BUILDER", builder.service().toString());
      try (ServiceProcess node = measures.start(FULL_CACHE, nodeFolder, environment)) {
        ServiceProcess.await(() -> !builder.nodes().isEmpty());
        out.println("a node that its builder tells what is new:");
        measures.changes(builder, node.client(), List.of(builder));
      }
    } finally {
      Folders.delete(folder);
    }
  }

  private static SearchQuery twoWords(Random random) {
    return SearchQuery.words(
        WORDS.get(random.nextInt(WORDS.size())) + " " + WORDS.get(random.nextInt(WORDS.size())));
  }
}
