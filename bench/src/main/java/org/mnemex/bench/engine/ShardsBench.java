package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;

/**
 * What a search costs where an index is divided into shards that a search node searches as one: the
 * same documents in one edition and in several, asked in turn. Each answer is compared.
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
      SearchView one = fill(1, open);
      SearchView several = fill(SHARDS, open);
      Comparison comparison = new Comparison(300, "one", one, SHARDS + " shards", several, out);
      SomeSearches searches = new SomeSearches(corpus);
      comparison.measure("any of 3 words, top 10", searches::words);
      comparison.measure("2 words, 5 facets, total", searches::withFacets);
      comparison.measure("a rare word", searches::rare);
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
}
