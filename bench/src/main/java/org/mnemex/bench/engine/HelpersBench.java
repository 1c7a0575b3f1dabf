package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.IntFunction;
import java.util.function.Supplier;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.read.SegmentView;

/**
 * What a search gains if other processors take on parts of it: the same search alone and in parts,
 * in turn. Each answer is compared.
 */
public final class HelpersBench {
  /** Ranks of words, from frequent to rare. */
  private static final int[] RANKS = {10, 30, 100, 300, 1_000, 3_000};

  private HelpersBench() {}

  /**
   * Measures.
   *
   * @param arguments how many documents; 1,000,000 if nothing is given
   */
  public static void main(String[] arguments) throws IOException {
    int documents = arguments.length == 0 ? 1_000_000 : Integer.parseInt(arguments[0]);
    int parts = Runtime.getRuntime().availableProcessors();
    Path folder = Files.createTempDirectory("mnemex-bench");
    Corpus corpus = new Corpus();
    try (EditionFolder edition = EditionFolder.open(folder, Corpus.schema());
        ExecutorService threads = Executors.newFixedThreadPool(parts)) {
      for (int n = 0; n < documents; n++) {
        edition.put(corpus.document(n));
      }
      edition.refresh(Checkpoint.NONE);
      while (edition.mergeStep() > 0) {
        // Until nothing is left to merge.
      }
      PrintStream out = System.out;
      out.printf(
          "%,d documents in segments of %s%n%n",
          documents, edition.snapshot().segments().stream().map(SegmentView::liveCount).toList());
      measure(
          new Comparison(
              100,
              "alone",
              edition.view(),
              "in " + parts + " parts",
              edition.view().helpedBy(new Threads(threads, parts)),
              out),
          new SomeSearches(corpus));
    } finally {
      Corpus.delete(folder);
    }
  }

  private static void measure(Comparison comparison, SomeSearches searches) {
    comparison.measure("all documents, 5 facets", random -> searches.everything());
    comparison.measure("2 words, 5 facets, total", searches::withFacets);
    for (int rank : RANKS) {
      comparison.measure(
          "a word like the %,dth, 5 facets".formatted(rank),
          random -> searches.wordWithFacets(random, rank));
    }
    comparison.measure("2 words, total", searches::counted);
    comparison.measure("a word, sorted by price, total", searches::sorted);
  }

  /** Helps with every search. */
  private record Threads(ExecutorService threads, int parts) implements Helpers {
    @Override
    public <T> List<T> share(long documents, IntFunction<List<Supplier<T>>> divide) {
      List<Supplier<T>> works = divide.apply(parts);
      List<CompletableFuture<T>> helped =
          works.subList(1, works.size()).stream()
              .map(part -> CompletableFuture.supplyAsync(part, threads))
              .toList();
      List<T> all = new ArrayList<>();
      all.add(works.getFirst().get());
      helped.forEach(part -> all.add(part.join()));
      return all;
    }
  }
}
