package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.lang.reflect.Proxy;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.stream.IntStream;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.ShardResult;
import org.mnemex.engine.shard.ShardSearch;
import org.mnemex.engine.shard.Shards;

/**
 * A model of an index that no single machine of ours can have: 1,000,000,000 documents at 64 nodes.
 * What a search costs in shards of two sizes, and what it costs to merge what 32 have found, is
 * measured; the rest is assumed, said, and simulated.
 */
public final class ManyNodesBench {
  private static final long DOCUMENTS = 1_000_000_000;
  private static final int SHARDS = 4;
  private static final int SEARCHES = 200;
  private static final int ROUNDS = 3;
  private static final int SIMULATED = 20_000;
  private static final ManyNodes.Assumptions GIVEN =
      new ManyNodes.Assumptions(32, 2, 16, 0.5, 0.3, 100, 30_000);

  private final Corpus corpus = new Corpus();
  private final int documents;
  private final Path folder;
  private final PrintStream out;

  private ManyNodesBench(int documents, Path folder, PrintStream out) {
    this.documents = documents;
    this.folder = folder;
    this.out = out;
  }

  /**
   * Measures and simulates.
   *
   * @param arguments how many documents to measure with; 1,000,000 if nothing is given
   */
  public static void main(String[] arguments) throws IOException {
    int documents = arguments.length == 0 ? 1_000_000 : Integer.parseInt(arguments[0]);
    ShardFolders.inTemporaryFolder(
        folder -> new ManyNodesBench(documents, folder, System.out).run());
  }

  private void run() throws IOException {
    try (ShardFolders large = ShardFolders.fill(corpus, documents, 1, folder);
        ShardFolders small = ShardFolders.fill(corpus, documents, SHARDS, folder)) {
      double bytes = (double) large.bytes() / documents;
      long each = DOCUMENTS / GIVEN.groups();
      out.printf(
          "measured with %,d documents in one shard and in %d; %.0f bytes a document%n",
          documents, SHARDS, bytes);
      out.printf(
          "assumed: %,d documents in %d groups of shards, %d nodes each, so %,d documents and %.0f GB at a node;"
              + " %d processors each;%n  a call takes %.1f ms of a processor at both ends and %.1f ms of"
              + " network; a node stands still for %.0f ms every %.0f s%n%n",
          DOCUMENTS,
          GIVEN.groups(),
          GIVEN.copies(),
          each,
          each * bytes / 1e9,
          GIVEN.processors(),
          GIVEN.call(),
          GIVEN.network(),
          GIVEN.pause(),
          GIVEN.between() / 1000);
      SomeSearches searches = new SomeSearches(corpus);
      model("any of 3 words, top 10", searches::words, large, small, each);
      model("2 words, 5 facets, total", searches::withFacets, large, small, each);
    }
  }

  private void model(
      String what,
      Function<Random, SearchRequest> requests,
      ShardFolders large,
      ShardFolders small,
      long each) {
    Measured one = new Measured(large.views());
    Measured several = new Measured(small.views());
    List<ManyNodes.Cost> costs = new ArrayList<>();
    List<Double> variation = new ArrayList<>();
    List<Double> parts = new ArrayList<>();
    for (int round = 0; round < ROUNDS; round++) {
      costs.clear();
      variation.clear();
      parts.clear();
      for (int i = 0; i < SEARCHES; i++) {
        SearchRequest request = requests.apply(new Random(i));
        double whole = one.search(request)[0];
        double[] quarters = several.search(request);
        double mean = Arrays.stream(quarters).average().orElseThrow();
        Arrays.stream(quarters).forEach(time -> variation.add(time / mean));
        double perDocument = Math.max(0, (whole - mean) / (documents - documents / SHARDS));
        double part = whole + perDocument * (each - documents);
        costs.add(new ManyNodes.Cost(part, several.merge(request, GIVEN.groups())));
        parts.add(whole);
      }
    }
    double part = mean(costs.stream().map(ManyNodes.Cost::part).toList());
    double merge = mean(costs.stream().map(ManyNodes.Cost::merge).toList());
    double search = GIVEN.groups() * part + merge + 2 * (GIVEN.groups() - 1) * GIVEN.call();
    double capacity = 1000.0 * GIVEN.nodes() * GIVEN.processors() / search;
    out.printf(
        "%s%n  on average: %.1f ms in %,d documents (measured), %.1f ms in %,d (in proportion), %.2f ms to"
            + " merge (measured);%n  %.0f ms of processors for a search, so at most %,.0f searches/s%n",
        what, mean(parts), documents, part, each, merge, search, capacity);
    double[] factors = variation.stream().mapToDouble(Double::doubleValue).toArray();
    for (double load : new double[] {0.1, 0.3, 0.6}) {
      ManyNodes.Outcome plain =
          ManyNodes.run(GIVEN, costs, factors, false, 1000 / (load * capacity), SIMULATED);
      ManyNodes.Outcome hedged =
          ManyNodes.run(GIVEN, costs, factors, true, 1000 / (load * capacity), SIMULATED);
      out.printf(
          "  %,6.0f searches/s: load %.0f%%, p50 %6.0f  p99 %6.0f ms; %4.1f%% of calls asked twice:"
              + " load %.0f%%, p50 %6.0f  p99 %6.0f ms%n",
          load * capacity,
          100 * plain.load(),
          plain.percentile(0.5),
          plain.percentile(0.99),
          100 * hedged.twice(),
          100 * hedged.load(),
          hedged.percentile(0.5),
          hedged.percentile(0.99));
    }
    out.println();
  }

  private static double mean(List<Double> values) {
    return values.stream().mapToDouble(Double::doubleValue).average().orElseThrow();
  }

  /** Shards that note what each of them has found, and how long that took. */
  private static final class Measured {
    private final List<Shard> shards;
    private final Map<String, Fact> facts = new ConcurrentHashMap<>();
    private double[] millis = {};
    private List<List<ShardResult>> found = List.of();

    Measured(List<SearchView> views) {
      List<Shard> all = views.stream().map(SearchView::shard).toList();
      this.shards =
          IntStream.range(0, all.size())
              .mapToObj(i -> searching(all.get(i), searches -> note(i, all.get(i), searches)))
              .toList();
    }

    private List<ShardResult> note(int number, Shard shard, List<ShardSearch> searches) {
      long start = System.nanoTime();
      List<ShardResult> results = shard.search(searches);
      millis[number] = (System.nanoTime() - start) / 1e6;
      found.set(number, results);
      return results;
    }

    /** How long each shard takes, in milliseconds. */
    double[] search(SearchRequest request) {
      millis = new double[shards.size()];
      found = new ArrayList<>(Collections.nCopies(shards.size(), List.of()));
      together(shards).search(request);
      return millis;
    }

    /** How long it takes to merge what so many shards have found, and all else, in milliseconds. */
    double merge(SearchRequest request, int groups) {
      List<Shard> told =
          IntStream.range(0, groups)
              .mapToObj(i -> i % shards.size())
              .map(i -> searching(shards.get(i), searches -> found.get(i)))
              .toList();
      return Times.millis(() -> together(told).search(request));
    }

    private SearchView together(List<Shard> all) {
      return SearchView.of(Corpus.schema(), Shards.inTurn(all), facts, Checkpoint.NONE);
    }
  }

  /** A shard that is searched in another way. */
  private static Shard searching(
      Shard shard, Function<List<ShardSearch>, List<ShardResult>> search) {
    return (Shard)
        Proxy.newProxyInstance(
            Shard.class.getClassLoader(),
            new Class<?>[] {Shard.class},
            (_, method, arguments) ->
                method.getName().equals("search")
                    ? search.apply(searches(arguments[0]))
                    : method.invoke(shard, arguments));
  }

  @SuppressWarnings("unchecked")
  private static List<ShardSearch> searches(Object argument) {
    return (List<ShardSearch>) argument;
  }
}
