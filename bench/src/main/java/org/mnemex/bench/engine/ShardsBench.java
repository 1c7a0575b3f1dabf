package org.mnemex.bench.engine;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.ConcurrentHashMap;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
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
    ShardFolders.inTemporaryFolder(folder -> new ShardsBench(documents, folder, System.out).run());
  }

  private void run() throws IOException {
    out.printf("%,d documents in one edition and in %d shards%n%n", documents, SHARDS);
    try (ShardFolders whole = fill(1);
        ShardFolders divided = fill(SHARDS)) {
      SearchView one = SearchView.of(whole.views(), Checkpoint.NONE);
      List<SearchView> shards = divided.views();
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
    }
  }

  private ShardFolders fill(int shards) throws IOException {
    ShardFolders filled = ShardFolders.fill(corpus, documents, shards, folder);
    out.printf(
        "%d filled and merged in %.0f s, %d segments%n",
        shards, filled.seconds(), filled.segments());
    return filled;
  }

  private void compare(SearchView one, String other, SearchView several) {
    Comparison comparison = new Comparison(300, "one", one, other, several, out);
    SomeSearches searches = new SomeSearches(corpus);
    comparison.measure("any of 3 words, top 10", searches::words);
    comparison.measure("2 words, 5 facets, total", searches::withFacets);
    comparison.measure("a rare word", searches::rare);
  }
}
