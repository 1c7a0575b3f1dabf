package org.mnemex.bench.engine;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;

/**
 * Generated documents, divided among editions that are filled and merged.
 *
 * @param bytes of all files
 * @param segments of all editions
 * @param seconds how long it took
 */
record ShardFolders(List<EditionFolder> editions, long bytes, int segments, double seconds)
    implements AutoCloseable {
  /** Work in a folder. */
  interface InFolder {
    void run(Path folder) throws IOException;
  }

  /** Does something in a folder of its own, and removes it. */
  static void inTemporaryFolder(InFolder work) throws IOException {
    Path folder = Files.createTempDirectory("mnemex-bench");
    try {
      work.run(folder);
    } finally {
      try (Stream<Path> editions = Files.list(folder)) {
        for (Path edition : editions.toList()) {
          Corpus.delete(edition);
        }
      }
      Corpus.delete(folder);
    }
  }

  /**
   * Fills so many editions with documents in turn.
   *
   * @param folder where their folders are made
   */
  static ShardFolders fill(Corpus corpus, int documents, int shards, Path folder)
      throws IOException {
    long start = System.nanoTime();
    List<EditionFolder> editions = new ArrayList<>();
    for (int i = 0; i < shards; i++) {
      editions.add(EditionFolder.open(place(folder, shards, i), Corpus.schema()));
    }
    for (int n = 0; n < documents; n++) {
      editions.get(n % shards).put(corpus.document(n));
    }
    int segments = 0;
    long bytes = 0;
    for (int i = 0; i < shards; i++) {
      EditionFolder edition = editions.get(i);
      edition.refresh(Checkpoint.NONE);
      while (edition.mergeStep() > 0) {
        // Until nothing is left to merge.
      }
      segments += edition.snapshot().segments().size();
      bytes += size(place(folder, shards, i));
    }
    return new ShardFolders(editions, bytes, segments, Times.seconds(start));
  }

  private static Path place(Path folder, int shards, int number) throws IOException {
    return Files.createDirectories(folder.resolve(shards + "-" + number));
  }

  private static long size(Path edition) throws IOException {
    long bytes = 0;
    try (Stream<Path> files = Files.list(edition)) {
      for (Path file : files.toList()) {
        bytes += Files.size(file);
      }
    }
    return bytes;
  }

  List<SearchView> views() {
    return editions.stream().map(EditionFolder::view).toList();
  }

  @Override
  public void close() throws IOException {
    for (EditionFolder edition : editions) {
      edition.close();
    }
  }
}
