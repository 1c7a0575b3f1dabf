package org.mnemex.sync.edition;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.Pace;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.StoredOrigin;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** One physical build of an index: its folder, its feed, and the two threads that serve them. */
public final class Edition {
  private static final Logger LOG = LoggerFactory.getLogger(Edition.class);
  private static final long MERGE_PAUSE_MILLIS = 200;
  private static final long FAILED_MERGE_PAUSE_MILLIS = 2000;

  private final int number;
  private volatile EditionStore.EditionEntry entry;
  private volatile IndexDefinition definition;
  private final Path path;
  private final Source source;
  private final EditionFolder folder;
  private final Feed feed;
  private final Thread feedThread;
  private final Thread mergeThread;
  private volatile boolean stopping;

  Edition(
      EditionStore.EditionEntry entry,
      IndexDefinition definition,
      Path path,
      Source source,
      Quarantine quarantine,
      Clock clock,
      String readerName,
      @Nullable StoredOrigin origin,
      Feed.Listener listener)
      throws IOException {
    this.number = entry.number();
    this.entry = entry;
    this.definition = definition;
    this.path = path;
    this.source = source;
    this.folder = EditionFolder.open(path, definition.schema());
    try {
      // Damage is to be known now, when the edition can still be filled anew, not at some search.
      folder.verify();
    } catch (RuntimeException e) {
      folder.close();
      throw e;
    }
    this.feed =
        new Feed(
            definition,
            number,
            source,
            folder,
            quarantine,
            clock,
            readerName,
            Pace.of(source.recordsPerSecond()),
            origin,
            listener);
    String name = definition.name() + "-" + number;
    this.feedThread = Thread.ofPlatform().name("feed-" + name).daemon().unstarted(feed);
    this.mergeThread = Thread.ofPlatform().name("merge-" + name).daemon().unstarted(this::merge);
  }

  public int number() {
    return number;
  }

  /** Version of the definition that it has now. */
  public int version() {
    return entry.version();
  }

  /** What is written down of it. */
  public EditionStore.EditionEntry entry() {
    return entry;
  }

  /** Takes over what was written down of it. */
  void note(EditionStore.EditionEntry written) {
    entry = written;
  }

  /** Takes a definition that makes the same documents of the same records. */
  void redefine(IndexDefinition other, EditionStore.EditionEntry written) {
    folder.redefine(other.schema());
    feed.redefine(other);
    definition = other;
    entry = written;
  }

  public IndexDefinition definition() {
    return definition;
  }

  /** Where its records come from. */
  public Source source() {
    return source;
  }

  public EditionFolder folder() {
    return folder;
  }

  public Feed feed() {
    return feed;
  }

  void start() {
    feedThread.start();
    mergeThread.start();
  }

  private void merge() {
    String said = "";
    try {
      while (!stopping) {
        try {
          if (folder.mergeStep() == 0) {
            Thread.sleep(MERGE_PAUSE_MILLIS);
          }
        } catch (IOException e) {
          // Mostly a disk without room, which may have some again.
          if (!said.equals(e.getMessage())) {
            LOG.warn(
                "index '{}' cannot merge: {}; trying again", definition.name(), e.getMessage());
          }
          said = String.valueOf(e.getMessage());
          Thread.sleep(FAILED_MERGE_PAUSE_MILLIS);
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (RuntimeException e) {
      LOG.error("merging of index '{}' stopped; searching goes on", definition.name(), e);
    }
  }

  /** Ends the threads, commits and closes. Must not be called from the edition's own threads. */
  void close() {
    stopping = true;
    feed.stop();
    try {
      feedThread.join();
      mergeThread.join();
      feed.close();
      folder.close();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (IOException e) {
      LOG.warn("edition {} of index '{}' did not close cleanly", number, definition.name(), e);
    }
  }

  /** Closes and removes everything, here and in the source. */
  void discard() {
    close();
    feed.leave();
    deleteFolder(path);
  }

  static void deleteFolder(Path path) {
    if (!Files.exists(path)) {
      return;
    }
    try (Stream<Path> files = Files.walk(path)) {
      List<Path> deepestFirst = files.sorted(Comparator.reverseOrder()).toList();
      for (Path file : deepestFirst) {
        Files.deleteIfExists(file);
      }
    } catch (IOException e) {
      LOG.warn("{} could not be removed", path, e);
    }
  }
}
