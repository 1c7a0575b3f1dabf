package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.shard.Shards;

/**
 * What a search costs where an index is divided into shards that a search node searches as one: the
 * same documents in one edition and in several, asked in turn; and where the shards only tell one
 * another data, as those at several nodes do, without the network between these. Each answer is
 * compared.
 */
public final class ShardsBench {
  private static final int SHARDS = 4;

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
      SearchView one = SearchView.of(fill(1, open), Checkpoint.NONE);
      List<SearchView> shards = fill(SHARDS, open);
      compare(one, SHARDS + " shards", SearchView.of(shards, Checkpoint.NONE));
      out.println();
      compare(
          one,
          SHARDS + " apart",
          SearchView.of(
              Corpus.schema(),
              Shards.inTurn(shards.stream().map(SearchView::shard).toList()),
              new ConcurrentHashMap<>(),
              Checkpoint.NONE));
    } finally {
      for (EditionFolder edition : open) {
        edition.close();
      }
    }
  }

  private void compare(SearchView one, String other, SearchView several) {
    Comparison comparison = new Comparison(300, "one", one, other, several, out);
    SomeSearches searches = new SomeSearches(corpus);
    comparison.measure("any of 3 words, top 10", searches::words);
    comparison.measure("2 words, 5 facets, total", searches::withFacets);
    comparison.measure("a rare word", searches::rare);
  }

  private List<SearchView> fill(int shards, List<EditionFolder> open) throws IOException {
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
    return editions.stream().map(EditionFolder::view).toList();
  }
}
