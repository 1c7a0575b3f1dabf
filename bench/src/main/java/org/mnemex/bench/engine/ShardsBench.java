package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.function.Function;
import java.util.stream.Stream;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;

/**
 * What a search costs where an index is divided into shards that a search node searches as one: the
 * same documents in one edition and in several, asked in turn. Each answer is compared.
 */
public final class ShardsBench {
  private static final int QUERIES = 300;
  private static final int ROUNDS = 3;
  private static final int SHARDS = 4;
  private static final Map<String, Double> FIELDS = Map.of("title", 3.0, "body", 1.0);
  private static final List<String> FACETS = List.of("family", "bed", "colour", "year", "price");

  private final Corpus corpus = new Corpus();
  private final int documents;
  private final Path folder;
  private final PrintStream out;

  private ShardsBench(int documents, Path folder, PrintStream out) {
    this.documents = documents;
    this.folder = folder;
    this.out = out;
  }

  /**
   * Measures.
   *
   * @param arguments how many documents; 1,000,000 if nothing is given
   */
  public static void main(String[] arguments) throws IOException {
    int documents = arguments.length == 0 ? 1_000_000 : Integer.parseInt(arguments[0]);
    Path folder = Files.createTempDirectory("mnemex-bench");
    try {
      new ShardsBench(documents, folder, System.out).run();
    } finally {
      try (Stream<Path> editions = Files.list(folder)) {
        for (Path edition : editions.toList()) {
          Corpus.delete(edition);
        }
      }
      Corpus.delete(folder);
    }
  }

  private void run() throws IOException {
    out.printf("%,d documents in one edition and in %d shards%n%n", documents, SHARDS);
    List<EditionFolder> open = new ArrayList<>();
    try {
      SearchView one = fill(1, open);
      SearchView several = fill(SHARDS, open);
      measure("any of 3 words, top 10", one, several, this::words);
      measure("2 words, 5 facets, total", one, several, this::withFacets);
      measure("a rare word", one, several, this::rare);
    } finally {
      for (EditionFolder edition : open) {
        edition.close();
      }
    }
  }

  private SearchView fill(int shards, List<EditionFolder> open) throws IOException {
    long start = System.nanoTime();
    List<EditionFolder> editions = new ArrayList<>();
    for (int i = 0; i < shards; i++) {
      Path place = Files.createDirectories(folder.resolve(shards + "-" + i));
      EditionFolder edition = EditionFolder.open(place, Corpus.schema());
      editions.add(edition);
      open.add(edition);
    }
    for (int n = 0; n < documents; n++) {
      Document document = corpus.document(n);
      editions.get(n % shards).put(document);
    }
    int segments = 0;
    for (EditionFolder edition : editions) {
      edition.refresh(Checkpoint.NONE);
      while (edition.mergeStep() > 0) {
        // Until nothing is left to merge.
      }
      segments += edition.snapshot().segments().size();
    }
    out.printf(
        "%d filled and merged in %.0f s, %d segments%n", shards, Times.seconds(start), segments);
    return SearchView.of(editions.stream().map(EditionFolder::view).toList(), Checkpoint.NONE);
  }

  private void measure(
      String what, SearchView one, SearchView several, Function<Random, SearchRequest> requests) {
    double[] ofOne = new double[QUERIES];
    double[] ofSeveral = new double[QUERIES];
    for (int round = 0; round < ROUNDS; round++) {
      for (int i = 0; i < QUERIES; i++) {
        SearchRequest request = requests.apply(new Random(i));
        SearchResult[] results = new SearchResult[2];
        ofOne[i] = Times.millis(() -> results[0] = one.search(request));
        ofSeveral[i] = Times.millis(() -> results[1] = several.search(request));
        if (!results[0].hits().equals(results[1].hits())
            || !results[0].facets().equals(results[1].facets())) {
          throw new IllegalStateException("other results for " + request);
        }
      }
    }
    out.printf(
        "%-26s one %s   %d shards %s   p50 ratio %.2f%n",
        what,
        Times.percentiles(ofOne),
        SHARDS,
        Times.percentiles(ofSeveral),
        Times.median(ofSeveral) / Times.median(ofOne));
  }

  private SearchRequest words(Random random) {
    return SearchRequest.of(new Query.AnyOf(clauses(random, 3, 1, 3.5)), 10).countingUpTo(100);
  }

  private SearchRequest withFacets(Random random) {
    List<FacetRequest> facets =
        FACETS.stream()
            .map(name -> (FacetRequest) new ValueFacet(name, name, List.of(), 10, FacetOrder.COUNT))
            .toList();
    return SearchRequest.of(new Query.AllOf(clauses(random, 2, 1, 2)), 10)
        .at(0, 10, facets)
        .countingUpTo(Long.MAX_VALUE);
  }

  private SearchRequest rare(Random random) {
    return SearchRequest.of(clauses(random, 1, 4, 1).getFirst(), 10).countingUpTo(100);
  }

  /** Words of ranks from 10 to the power of {@code from}, over so many powers of ten. */
  private List<Query> clauses(Random random, int count, double from, double powers) {
    Query[] clauses = new Query[count];
    Arrays.setAll(
        clauses,
        i ->
            new Query.Word(
                FIELDS,
                corpus.word((int) Math.pow(10, from + powers * random.nextDouble())),
                false));
    return List.of(clauses);
  }
}
