package org.mnemex.sync.edition;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.IntFunction;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.DamagedFileException;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionStore.EditionEntry;
import org.mnemex.sync.edition.EditionStore.State;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.RemovalGuard;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The editions of one index: the live one that answers, and at most one that is being filled.
 *
 * <p>What answers is one immutable pair, swapped in one write: whoever took the live edition before
 * a promotion finishes with it. What is written down is changed in one transaction before the swap,
 * so after a crash either the old edition is live or the new one.
 */
public final class Editions implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Editions.class);

  private final String index;
  private final Path root;
  private final String installation;
  private final EditionStore store;
  private final Quarantine quarantine;
  private final Clock clock;
  private final ExecutorService transitions;
  private volatile Both editions = new Both(null, null);
  private volatile boolean paused;
  private volatile @Nullable String held;
  private boolean agreed;

  private record Both(@Nullable Edition live, @Nullable Edition filling) {}

  /**
   * @param root folder of the index; each edition has a folder in it
   * @param installation what tells this installation from others that follow the same source
   */
  public Editions(
      String index,
      Path root,
      String installation,
      EditionStore store,
      Quarantine quarantine,
      Clock clock) {
    this.index = index;
    this.root = root;
    this.installation = installation;
    this.store = store;
    this.quarantine = quarantine;
    this.clock = clock;
    this.transitions =
        Executors.newSingleThreadExecutor(
            Thread.ofPlatform().name("editions-" + index).daemon().factory());
  }

  /**
   * Opens what was written down and removes what was not. A damaged edition is given up: whoever
   * finds no edition of the current definition afterwards has to {@link #build} one.
   *
   * @param definitions the definition of a version
   */
  public synchronized void open(IntFunction<IndexDefinition> definitions, Source source)
      throws IOException {
    Edition live = null;
    Edition filling = null;
    for (EditionEntry entry : store.of(index)) {
      if (entry.state() == State.RETIRED) {
        continue;
      }
      Edition edition;
      try {
        edition = open(entry, definitions.apply(entry.version()), source);
      } catch (DamagedFileException e) {
        LOG.error("index '{}', edition {}: {}", index, entry.number(), e.getMessage());
        store.save(entry.in(State.RETIRED));
        continue;
      }
      if (entry.state() == State.LIVE) {
        live = edition;
      } else {
        filling = edition;
      }
    }
    editions = new Both(live, filling);
    removeLeftovers(live, filling);
    transitions.execute(() -> leaveAsRetired(source));
    Stream.of(live, filling).forEach(edition -> startIfThere(edition));
  }

  /** A crash may have come before the source was told; it would keep changes for nobody. */
  private void leaveAsRetired(Source source) {
    for (EditionEntry entry : store.of(index)) {
      if (entry.state() == State.RETIRED) {
        try (Source.Capture capture = source.capture(reader(entry.number()))) {
          capture.leave();
        } catch (SourceUnavailableException e) {
          LOG.warn("index '{}': {}", index, e.getMessage());
          return;
        }
      }
    }
  }

  private String reader(int number) {
    return "%s/%d@%s".formatted(index, number, installation);
  }

  private static void startIfThere(@Nullable Edition edition) {
    if (edition != null) {
      edition.start();
    }
  }

  private Edition open(EditionEntry entry, IndexDefinition definition, Source source)
      throws IOException {
    return new Edition(
        entry,
        definition,
        folder(entry.number()),
        source,
        quarantine,
        clock,
        reader(entry.number()),
        new Transitions(entry, definition, source));
  }

  private Path folder(int number) {
    return root.resolve("edition-" + number);
  }

  private void removeLeftovers(@Nullable Edition live, @Nullable Edition filling)
      throws IOException {
    if (!Files.isDirectory(root)) {
      return;
    }
    try (Stream<Path> folders = Files.list(root)) {
      for (Path folder : folders.toList()) {
        boolean wanted =
            Stream.of(live, filling).anyMatch(e -> e != null && folder.equals(folder(e.number())));
        if (!wanted) {
          Edition.deleteFolder(folder);
        }
      }
    }
  }

  /**
   * Begins to build an edition from a definition, in place of one that is being built already. It
   * is promoted by itself when it has caught up.
   *
   * @return the new edition's number
   */
  public synchronized int build(IndexDefinition definition, int version, Source source)
      throws IOException {
    Both before = editions;
    if (before.filling != null) {
      store.save(entry(before.filling, State.RETIRED));
      before.filling.discard();
      quarantine.removeAll(index, before.filling.number());
    }
    int number = store.of(index).stream().mapToInt(EditionEntry::number).max().orElse(0) + 1;
    EditionEntry entry = new EditionEntry(index, number, version, State.FILLING);
    store.save(entry);
    Edition.deleteFolder(folder(number));
    Edition edition = open(entry, definition, source);
    editions = new Both(before.live, edition);
    held = null;
    edition.feed().pause(paused);
    edition.start();
    return number;
  }

  private synchronized void promote(int number) {
    Both before = editions;
    Edition filled = before.filling;
    if (filled == null || filled.number() != number) {
      return;
    }
    Edition former = before.live;
    if (former != null && !agreed) {
      long documents = former.folder().snapshot().documents();
      long fewer = documents - filled.folder().snapshot().documents();
      if (RemovalGuard.isTooMany(fewer, documents, filled.definition().mostRemoved())) {
        held =
            "edition %d has %,d documents less than the live one has (%,d); it is not promoted until somebody agrees"
                .formatted(number, fewer, documents);
        LOG.warn("index '{}': {}", index, held);
        return;
      }
    }
    held = null;
    agreed = false;
    store.promote(entry(filled, State.LIVE), former == null ? 0 : former.number());
    editions = new Both(filled, null);
    LOG.info("index '{}': edition {} is live", index, number);
    if (former != null) {
      former.discard();
      quarantine.removeAll(index, former.number());
    }
  }

  /** Why a complete edition is not promoted, or null. */
  public @Nullable String held() {
    return held;
  }

  /** Lets the documents go that were held back, and an edition be promoted that has fewer. */
  public synchronized void agree() {
    all().forEach(edition -> edition.feed().agree());
    Edition filled = editions.filling;
    if (held != null && filled != null) {
      agreed = true;
      transitions.execute(() -> promote(filled.number()));
    }
  }

  /** Stops following the source for a while, or goes on with it. */
  public synchronized void pause(boolean stopped) {
    paused = stopped;
    all().forEach(edition -> edition.feed().pause(stopped));
  }

  public boolean isPaused() {
    return paused;
  }

  /** Ends everything and removes it, here and in the source. */
  public synchronized void discard() {
    transitions.shutdownNow();
    List<Edition> there = all();
    there.forEach(edition -> store.save(entry(edition, State.RETIRED)));
    editions = new Both(null, null);
    for (Edition edition : there) {
      edition.discard();
      quarantine.removeAll(index, edition.number());
    }
    Edition.deleteFolder(root);
  }

  private EditionEntry entry(Edition edition, State state) {
    return new EditionEntry(index, edition.number(), edition.version(), state);
  }

  /** The edition that answers, or null while the first one is being filled. */
  public @Nullable Edition live() {
    return editions.live;
  }

  /** The edition that is being filled, or null. */
  public @Nullable Edition filling() {
    return editions.filling;
  }

  /** The live edition, then the one being filled. */
  public List<Edition> all() {
    Both now = editions;
    return Stream.of(now.live, now.filling).flatMap(edition -> Stream.ofNullable(edition)).toList();
  }

  @Override
  public void close() {
    transitions.shutdownNow();
    all().forEach(Edition::close);
  }

  /** What feeds say is acted on by another thread, because it ends the feed's own. */
  private final class Transitions implements Feed.Listener {
    private final EditionEntry entry;
    private final IndexDefinition definition;
    private final Source source;

    Transitions(EditionEntry entry, IndexDefinition definition, Source source) {
      this.entry = entry;
      this.definition = definition;
      this.source = source;
    }

    @Override
    public void caughtUp() {
      transitions.execute(() -> promote(entry.number()));
    }

    @Override
    public void positionLost(String why) {
      LOG.warn("index '{}': {}; filling a new edition beside the live one", index, why);
      transitions.execute(
          () -> {
            try {
              build(definition, entry.version(), source);
            } catch (IOException e) {
              LOG.error("index '{}': no new edition could be begun", index, e);
            }
          });
    }
  }
}
