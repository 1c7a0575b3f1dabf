package org.mnemex.sync.edition;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Function;
import java.util.function.LongConsumer;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.schema.Schema;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.FeedSettings;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Pace;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.StoredOrigin;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Shard;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One physical build of an index: its folder, its feed, and what merges its segments.
 *
 * <h2>Damage</h2>
 *
 * <p>Files are mapped into memory, so a file that is cut or changed while in use causes any kind of
 * failure, or none. A failed read is reported; then all files are compared with their checksums. A
 * damaged edition stops answering and following.
 */
public final class Edition implements SearchedEdition {
  private static final Logger LOG = LoggerFactory.getLogger(Edition.class);

  /** Snapshots are counted since the start, so those of an earlier run mean nothing. */
  private static final UUID RUN = UUID.randomUUID();

  /** How long to wait for a thread that waits for a database, before and after cutting it off. */
  private static final Duration CLOSE_WAIT = Duration.ofSeconds(8);

  private final int number;
  private volatile EditionStore.EditionEntry entry;
  private volatile IndexDefinition definition;
  private final Path path;
  private final Source source;
  private final Shard shard;
  private final EditionFolder folder;
  private final Feed feed;
  private final Feed.Listener listener;
  private final Thread feedThread;
  private final Merging merging;
  private final AtomicBoolean looking = new AtomicBoolean();
  private volatile @Nullable String damage;

  Edition(
      EditionStore.EditionEntry entry,
      IndexDefinition definition,
      Path path,
      Source source,
      Quarantine quarantine,
      Clock clock,
      String readerName,
      @Nullable StoredOrigin origin,
      Shard shard,
      Feed.Listener listener)
      throws IOException {
    this.number = entry.number();
    this.entry = entry;
    this.definition = definition;
    this.path = path;
    this.source = source;
    this.shard = shard;
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
                definition,
                number,
                source,
                readerName,
                Pace.of(source.recordsPerSecond()),
                origin,
                shard),
            folder,
            quarantine,
            clock,
            listener);
    String name = definition.name() + "-" + number;
    this.feedThread = Thread.ofPlatform().name("feed-" + name).daemon().unstarted(feed);
    this.merging =
        new Merging(
            folder,
            "merge-" + name,
            () -> this.definition.name(),
            listener::failed,
            Merging.COMMIT_PAUSE);
  }

  @Override
  public int number() {
    return number;
  }

  @Override
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

  @Override
  public IndexDefinition definition() {
    return definition;
  }

  /** Where its records come from. */
  public Source source() {
    return source;
  }

  /** The records that belong to it. */
  public Shard shard() {
    return shard;
  }

  public EditionFolder folder() {
    return folder;
  }

  public Feed feed() {
    return feed;
  }

  @Override
  public @Nullable String damage() {
    return damage;
  }

  /** Why merging is suspended, or null. */
  public @Nullable String mergeProblem() {
    return merging.problem();
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

  @Override
  public <T extends @Nullable Object> T search(
      @Nullable Schema other, Function<SearchView, T> work) {
    return read(() -> work.apply(other == null ? folder.view() : folder.view(other)));
  }

  @Override
  public String state() {
    return "%s %d %d".formatted(RUN, folder.snapshot().number(), feed.setAside());
  }

  @Override
  public boolean isSetAside(String key) {
    return feed.isSetAside(key);
  }

  @Override
  public @Nullable Instant trueAt() {
    return feed.trueAt();
  }

  @Override
  public @Nullable Position position() {
    return feed.position();
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
    merging.stop();
    feed.giveUp(why);
  }

  void start() {
    feedThread.start();
    merging.start();
    listener.opened();
  }

  /** Says that there may be something to merge. */
  void mergeIfNeeded() {
    merging.wake();
  }

  /**
   * Merges all segments into one, leaves out what is deleted, and gives its room back at once.
   * Waits until it is done, by the thread that merges.
   *
   * @param written told how many bytes are written; what it throws stops the work without a trace
   * @return how many documents were copied; 0 if there was nothing to do
   * @throws IOException if a file cannot be written, such as on a full disk
   * @throws java.util.concurrent.CancellationException if the edition is closed meanwhile
   */
  public int compact(LongConsumer written) throws IOException, InterruptedException {
    return merging.compact(written);
  }

  /** Free bytes of the disk of its files. */
  public long freeBytes() throws IOException {
    return Files.getFileStore(path).getUsableSpace();
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
    feed.stop();
    merging.stop();
    if (hasEnded(CLOSE_WAIT)) {
      afterwards.run();
      return;
    }
    feedThread.interrupt();
    merging.interrupt();
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
      if (feedThread.getState() != Thread.State.NEW) {
        feedThread.join(wait.toMillis());
      }
      return merging.hasEnded(wait) && !feedThread.isAlive();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return false;
    }
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
