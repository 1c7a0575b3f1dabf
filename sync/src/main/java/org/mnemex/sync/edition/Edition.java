package org.mnemex.sync.edition;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.LongConsumer;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.EngineException;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.FeedSettings;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Pace;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.StoredOrigin;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One physical build of an index: its folder, its feed, and the two threads that serve them.
 *
 * <h2>Damage</h2>
 *
 * <p>Files are mapped into memory, so a file that is cut or changed while in use causes any kind of
 * failure, or none. A failed read is reported; then all files are compared with their checksums. A
 * damaged edition stops answering and following.
 */
public final class Edition {
  private static final Logger LOG = LoggerFactory.getLogger(Edition.class);
  private static final long MERGE_PAUSE_MILLIS = 200;

  /** While nothing is written. */
  private static final long QUIET_MERGE_PAUSE_MILLIS = 1000;

  private static final long FAILED_MERGE_PAUSE_MILLIS = 2000;
  private static final long LONGEST_MERGE_PAUSE_MILLIS = 60_000;

  /** How long to wait for a thread that waits for a database, before and after cutting it off. */
  private static final Duration CLOSE_WAIT = Duration.ofSeconds(8);

  private final int number;
  private volatile EditionStore.EditionEntry entry;
  private volatile IndexDefinition definition;
  private final Path path;
  private final Source source;
  private final EditionFolder folder;
  private final Feed feed;
  private final Feed.Listener listener;
  private final Thread feedThread;
  private final Thread mergeThread;
  private final BlockingQueue<FutureTask<Integer>> compactions = new LinkedBlockingQueue<>();
  private final AtomicBoolean looking = new AtomicBoolean();
  private volatile boolean stopping;
  private volatile @Nullable String damage;
  private volatile @Nullable String mergeProblem;

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
    this.listener = listener;
    // A complete edition was committed, so an empty folder is damage.
    this.folder =
        entry.state() == EditionStore.State.FILLING
            ? EditionFolder.open(path, definition.schema())
            : EditionFolder.openCommitted(path, definition.schema());
    try {
      for (String why : folder.passedOver()) {
        LOG.error(
            "index '{}', edition {}: {}. The commit before it is used; changes since then are read again",
            definition.name(),
            number,
            why);
      }
    } catch (RuntimeException e) {
      folder.close();
      throw e;
    }
    this.feed =
        new Feed(
            new FeedSettings(
                definition, number, source, readerName, Pace.of(source.recordsPerSecond()), origin),
            folder,
            quarantine,
            clock,
            listener);
    String name = definition.name() + "-" + number;
    this.feedThread = Thread.ofPlatform().name("feed-" + name).daemon().unstarted(feed);
    this.mergeThread = Thread.ofPlatform().name("merge-" + name).daemon().unstarted(this::merge);
  }

  public int number() {
    return number;
  }

  /** Current version of its definition. */
  public int version() {
    return entry.version();
  }

  /** The name that is recorded. */
  public EditionStore.EditionEntry entry() {
    return entry;
  }

  /** Adopts its recorded entry. */
  void note(EditionStore.EditionEntry written) {
    entry = written;
  }

  /** Adopts a definition that maps the same records to the same documents. */
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

  /** Why its files cannot be trusted any more, or null. */
  public @Nullable String damage() {
    return damage;
  }

  /** Why merging is suspended, or null. */
  public @Nullable String mergeProblem() {
    return mergeProblem;
  }

  /**
   * Reads the edition.
   *
   * @throws EditionDamagedException if its files are damaged
   */
  public <T extends @Nullable Object> T read(Supplier<T> work) {
    String known = damage;
    if (known != null) {
      throw new EditionDamagedException(definition.name(), number, known, null);
    }
    try {
      return work.get();
    } catch (DamagedFileException | InternalError e) {
      // InternalError: the file of a mapped region is gone.
      listener.failed(e);
      throw new EditionDamagedException(
          definition.name(), number, "a file cannot be read; all are being checked", e);
    } catch (EngineException e) {
      throw e;
    } catch (RuntimeException e) {
      listener.failed(e);
      throw e;
    }
  }

  /**
   * Compares all files with their checksums, unless a comparison is running.
   *
   * @return the damage, or null
   */
  @Nullable String lookForDamage() {
    if (damage != null || !looking.compareAndSet(false, true)) {
      return null;
    }
    try {
      folder.verify();
      return null;
    } catch (DamagedFileException | InternalError e) {
      return String.valueOf(e.getMessage());
    } finally {
      looking.set(false);
    }
  }

  /** Stops answering and following. */
  void giveUp(String why) {
    damage = why;
    stopping = true;
    feed.giveUp(why);
  }

  void start() {
    feedThread.start();
    mergeThread.start();
    listener.opened();
  }

  private void merge() {
    long pause = 0;
    long looked = -1;
    try {
      while (!stopping) {
        try {
          long now = folder.snapshot().number();
          boolean quiet = now == looked;
          if (quiet || folder.mergeStep() == 0) {
            looked = now;
            FutureTask<Integer> wanted =
                compactions.poll(
                    quiet ? QUIET_MERGE_PAUSE_MILLIS : MERGE_PAUSE_MILLIS, TimeUnit.MILLISECONDS);
            if (wanted != null) {
              wanted.run();
            }
          }
          mergeProblem = null;
          pause = 0;
        } catch (IOException | RuntimeException | Error e) {
          pause =
              pause == 0
                  ? FAILED_MERGE_PAUSE_MILLIS
                  : Math.min(2 * pause, LONGEST_MERGE_PAUSE_MILLIS);
          mergeFailed(e);
          Thread.sleep(pause);
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } finally {
      compactions.forEach(compaction -> compaction.cancel(false));
    }
  }

  /**
   * Merges all segments into one, leaves out what is deleted, and gives its room back at once.
   * Waits until it is done, by the thread that merges.
   *
   * @param written told how many bytes are written; what it throws stops the work without a trace
   * @return how many documents were copied; 0 if there was nothing to do
   * @throws IOException if a file cannot be written, such as on a full disk
   * @throws CancellationException if the edition is closed meanwhile
   */
  public int compact(LongConsumer written) throws IOException, InterruptedException {
    FutureTask<Integer> compaction = new FutureTask<>(() -> compactNow(written));
    compactions.add(compaction);
    if (stopping) {
      compaction.cancel(false);
    }
    try {
      return compaction.get();
    } catch (ExecutionException e) {
      switch (e.getCause()) {
        case IOException cause -> throw cause;
        case RuntimeException cause -> throw cause;
        case Error cause -> throw cause;
        case null, default -> throw new IllegalStateException(e.getCause());
      }
    }
  }

  private int compactNow(LongConsumer written) throws IOException {
    try {
      int copied =
          folder.compact(
              bytes -> {
                if (stopping) {
                  throw new CancellationException();
                }
                written.accept(bytes);
              });
      if (copied > 0) {
        folder.commit();
        // Only now no manifest names the former files any more.
        folder.commit();
      }
      return copied;
    } catch (DamagedFileException | InternalError e) {
      listener.failed(e);
      throw e;
    }
  }

  /** Free bytes of the disk of its files. */
  public long freeBytes() throws IOException {
    return Files.getFileStore(path).getUsableSpace();
  }

  private void mergeFailed(Throwable cause) {
    String message = "segments are not merged: " + cause.getMessage();
    if (!message.equals(mergeProblem)) {
      LOG.warn("index '{}': {}; trying again", definition.name(), message, cause);
    }
    mergeProblem = message;
    if (!(cause instanceof IOException)) {
      // Most I/O errors are a full disk, which may recover.
      listener.failed(cause);
    }
  }

  /** Ends the threads, commits and closes. Must not be called from the edition's own threads. */
  void close() {
    end(this::closeFolder);
  }

  /** Closes the edition and removes its files. */
  void discard() {
    end(
        () -> {
          closeFolder();
          deleteFolder(path);
        });
  }

  /**
   * Ends the threads, then runs an action. Cuts a feed off from a database that does not answer; if
   * that does not help, runs the action when the feed ends.
   */
  private void end(Runnable afterwards) {
    stopping = true;
    feed.stop();
    if (hasEnded(CLOSE_WAIT)) {
      afterwards.run();
      return;
    }
    feedThread.interrupt();
    mergeThread.interrupt();
    feed.abort();
    if (hasEnded(CLOSE_WAIT)) {
      afterwards.run();
      return;
    }
    LOG.warn(
        "edition {} of index '{}' waits for its source, which does not answer; it will be closed later",
        number,
        definition.name());
    Thread.ofPlatform()
        .name("close-" + definition.name() + "-" + number)
        .daemon()
        .start(
            () -> {
              if (hasEnded(Duration.ZERO)) {
                afterwards.run();
              }
            });
  }

  /**
   * Whether the threads have ended.
   *
   * @param wait how long to wait; zero for no limit
   */
  private boolean hasEnded(Duration wait) {
    try {
      for (Thread thread : List.of(feedThread, mergeThread)) {
        if (thread.getState() != Thread.State.NEW) {
          thread.join(wait.toMillis());
        }
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
    return !feedThread.isAlive() && !mergeThread.isAlive();
  }

  private void closeFolder() {
    try {
      feed.close();
    } catch (IOException | RuntimeException e) {
      LOG.warn("edition {} of index '{}' did not close cleanly", number, definition.name(), e);
    }
    try {
      folder.close();
    } catch (IOException e) {
      LOG.warn("edition {} of index '{}' did not close cleanly", number, definition.name(), e);
    }
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

  /** Its recorded entry, with the time of filling once that is known. */
  EditionStore.EditionEntry measured() {
    FeedStatus status = feed.status();
    if (entry().filled() != null || status.recordsDone() == 0) {
      return entry();
    }
    long rate = Math.max(1, status.recordsPerSecond());
    return entry()
        .filled(new EditionStore.Filled(status.recordsDone(), status.recordsDone() * 1000 / rate));
  }

  /** Whether its feed still follows the source. */
  boolean isFed() {
    return switch (feed.phase()) {
      case LOST, STOPPED -> false;
      default -> true;
    };
  }
}
