package org.mnemex.sync.edition;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.IntFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.sync.change.DefinitionDifferences;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionStore.EditionEntry;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.edition.EditionStore.State;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The editions of one index: the live one, at most one next one that will replace it, and at most
 * one previous one that can be restored.
 *
 * <p>They form one immutable group, swapped in one write: a search that took the live edition
 * before a promotion finishes with it. Records change in one transaction before the swap, so after
 * a crash either the old or the new edition is live.
 */
public final class Editions implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Editions.class);

  /** Why an edition is held that nothing is wrong with. */
  public static final String FOR_APPROVAL = "waiting for approval";

  private static final Duration LOOK_FOR_FORMER = Duration.ofSeconds(2);

  /** The source already knows of editions retired earlier. */
  private static final int LAST_RETIRED = 3;

  private final String keptAs;
  private volatile String name;
  private final EditionFolders folders;
  private final Builder builder;
  private final EditionStore store;
  private final Quarantine quarantine;
  private final Clock clock;
  private final PromotionCheck check;
  private final Departures departures;
  private final TransitionThread transitions;
  private volatile EditionGroup editions = EditionGroup.NONE;
  private volatile boolean paused;
  private volatile @Nullable String held;
  private volatile @Nullable String problem;
  private boolean agreed;

  private final Losses losses;

  /**
   * @param name of the index
   * @param keptAs its storage name, which the source knows, too
   * @param root folder of the index; each edition has a folder in it
   * @param builder who builds them
   * @param check asked before an edition goes live by itself
   * @param departures tells sources about removed editions
   */
  public Editions(
      String name,
      String keptAs,
      Path root,
      Builder builder,
      EditionStore store,
      Quarantine quarantine,
      Clock clock,
      PromotionCheck check,
      Departures departures) {
    this.departures = departures;
    this.name = name;
    this.keptAs = keptAs;
    this.folders = new EditionFolders(root);
    this.builder = builder;
    this.store = store;
    this.quarantine = quarantine;
    this.clock = clock;
    this.check = check;
    this.losses = new Losses(clock);
    this.transitions = new TransitionThread("editions-" + keptAs, () -> this.name);
  }

  /**
   * Opens recorded editions and removes other folders. Damaged editions are given up: the caller
   * must {@link #build} an edition if none has the current definition.
   *
   * @param definitions the definition of a version
   * @throws IOException if a folder cannot be read; nothing has changed
   * @throws org.mnemex.engine.error.EngineException the same, with the reason
   */
  public synchronized void open(IntFunction<IndexDefinition> definitions, Source source)
      throws IOException {
    List<Edition> opened = new ArrayList<>();
    try {
      for (EditionEntry entry : store.of(keptAs)) {
        if (entry.state() != State.RETIRED) {
          try {
            opened.add(open(entry, definitions.apply(entry.version()), source));
          } catch (DamagedFileException e) {
            LOG.error("index '{}', edition {}: {}", name, entry.number(), e.getMessage());
            store.save(entry.in(State.RETIRED));
          }
        }
      }
    } catch (IOException | RuntimeException e) {
      opened.forEach(Edition::close);
      throw e;
    }
    editions =
        EditionGroup.of(
            opened,
            surplus -> {
              // It was recorded but could not be started.
              note(surplus, surplus.entry().in(State.RETIRED));
              surplus.close();
            });
    Edition next = editions.next();
    if (next != null && next.entry().state() == State.READY) {
      held = FOR_APPROVAL;
    }
    folders.keepOnly(editions.all());
    // A crash may have prevented telling the source, which would keep changes for nobody.
    store.of(keptAs).reversed().stream()
        .filter(entry -> entry.state() == State.RETIRED)
        .limit(LAST_RETIRED)
        .forEach(entry -> departures.leave(source, reader(entry.number())));
    watch(editions.former());
    editions.all().forEach(Edition::start);
  }

  /** The reader name of an edition at its source. */
  public String reader(int number) {
    return OwnReaders.name(keptAs, number, builder.installation());
  }

  private Edition open(EditionEntry entry, IndexDefinition definition, Source source)
      throws IOException {
    return new Edition(
        entry,
        definition,
        folders.of(entry.number()),
        source,
        quarantine,
        clock,
        reader(entry.number()),
        entry.plan().fromStored()
            ? new LiveRecords(
                keptAs, definition.shape().key().size(), quarantine, () -> editions.live())
            : null,
        builder.shard(),
        new FeedReactions(this, entry.number(), source, transitions, losses));
  }

  /**
   * Starts building an edition from a definition, replacing a pending one.
   *
   * @param plan what to fill it from, and whether to promote it automatically
   * @return the new edition's number
   */
  public synchronized int build(
      IndexDefinition definition, int version, Source source, FillPlan plan) throws IOException {
    dropNext();
    int number = store.of(keptAs).stream().mapToInt(EditionEntry::number).max().orElse(0) + 1;
    boolean fromStored = plan.fromStored() && editions.live() != null;
    EditionEntry entry =
        new EditionEntry(
            keptAs,
            number,
            version,
            State.FILLING,
            new FillPlan(fromStored, plan.hold()),
            null,
            null);
    store.save(entry);
    Edition edition;
    try {
      folders.delete(number);
      edition = open(entry, definition, source);
    } catch (IOException e) {
      store.save(entry.in(State.RETIRED));
      throw e;
    }
    editions = editions.withNext(edition);
    LOG.info("index '{}': edition {} is begun", name, number);
    edition.feed().pause(paused);
    edition.start();
    return number;
  }

  /** Gives up the pending edition, if there is one. */
  public synchronized void dropNext() {
    Edition next = editions.next();
    if (next != null) {
      note(next, next.entry().in(State.RETIRED));
      editions = editions.withNext(null);
      remove(next);
    }
    held = null;
    agreed = false;
  }

  /**
   * Changes the definition of an edition to a version that maps records to the same documents.
   * Takes effect with the next query.
   */
  public synchronized void redefine(Edition edition, IndexDefinition definition, int version) {
    store.save(edition.entry().at(version));
    edition.redefine(definition, edition.entry().at(version));
  }

  /** Renames the index. Its storage name stays. */
  public synchronized void rename(String other) {
    name = other;
    all()
        .forEach(
            edition ->
                edition.redefine(edition.definition().called(other, keptAs), edition.entry()));
  }

  /** Removes the files of a retired edition. The next start removes what a crash leaves. */
  private void remove(Edition edition) {
    edition.discard();
    departures.leave(edition.source(), reader(edition.number()));
    try {
      quarantine.removeAll(keptAs, edition.number());
    } catch (UncheckedIOException e) {
      LOG.warn("index '{}': {}", name, e.getMessage());
    }
  }

  /** Promotes an edition that has caught up, unless it needs approval. */
  void complete(int number) {
    Edition filled;
    Edition live;
    synchronized (this) {
      filled = editions.next();
      live = editions.live();
      if (filled == null || filled.number() != number) {
        return;
      }
      note(filled, filled.measured());
    }
    // A damaged edition does not answer, so any replacement is better.
    boolean needed = live == null || live.damage() != null;
    LOG.info("index '{}': edition {} has caught up and is checked", name, number);
    String objection;
    try {
      objection = live == null || needed ? null : check.objection(filled, live);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return;
    } catch (RuntimeException e) {
      LOG.error("index '{}': edition {} could not be checked", name, number, e);
      objection = "it could not be checked: " + e.getMessage();
    }
    synchronized (this) {
      if (editions.next() != filled) {
        return;
      }
      boolean asked = filled.entry().plan().hold();
      if (!needed && !agreed && (objection != null || asked)) {
        note(filled, filled.entry().in(State.READY));
        held = objection == null ? FOR_APPROVAL : objection;
        LOG.info("index '{}': edition {} is complete; {}", name, number, held);
        return;
      }
      try {
        // The checks may have taken minutes.
        CaughtUp.require(filled, editions.live(), name, clock);
      } catch (EditionRefusedException e) {
        LOG.info("index '{}': {}", name, e.getMessage());
        transitions.later(TransitionThread.TRY_AGAIN, () -> complete(number));
        return;
      }
      goLive(filled, filled.entry(), () -> {});
    }
  }

  private void note(Edition edition, EditionEntry entry) {
    store.save(entry);
    edition.note(entry);
  }

  /**
   * Makes a complete edition live and the live one the previous one.
   *
   * @param as its new recorded entry
   * @param also another write in the same transaction
   */
  private void goLive(Edition edition, EditionEntry as, Runnable also) {
    EditionGroup before = editions;
    Edition former = before.live();
    Instant end = clock.instant().plus(edition.definition().grace());
    boolean keep =
        former != null
            && clock.instant().isBefore(end)
            && former.isFed()
            && DefinitionDifferences.newlyForbidden(former.definition(), edition.definition())
                .isEmpty();
    Edition next = before.next() == edition ? null : before.next();
    Edition older = before.former() == edition ? null : before.former();
    Map<Edition, EditionEntry> written = new LinkedHashMap<>();
    written.put(edition, as.in(State.LIVE));
    if (former != null) {
      written.put(former, keep ? former.entry().former(end) : former.entry().in(State.RETIRED));
    }
    if (older != null) {
      written.put(older, older.entry().in(State.RETIRED));
    }
    store.saveWith(also, written.values().toArray(EditionEntry[]::new));
    written.forEach(Edition::note);
    editions = new EditionGroup(edition, next, keep ? former : null);
    watch(editions.former());
    if (before.next() == edition) {
      held = null;
      agreed = false;
    }
    LOG.info("index '{}': edition {} is live", name, edition.number());
    if (former != null && !keep) {
      remove(former);
    }
    if (older != null) {
      remove(older);
    }
  }

  /**
   * Promotes the pending edition on request.
   *
   * @return its number
   * @throws EditionRefusedException if there is none, or it is not complete, or lags
   */
  public synchronized int promote() throws EditionRefusedException {
    Edition next = editions.next();
    if (next == null) {
      throw new EditionRefusedException(
          "index '%s' has no edition to promote; apply a definition first".formatted(name));
    }
    CaughtUp.require(next, editions.live(), name, clock);
    goLive(next, next.entry(), () -> {});
    return next.number();
  }

  /**
   * Restores the previous edition and keeps the current one for the grace period, so that the
   * rollback can be undone. Nothing is lost: both were fed all the time.
   *
   * @param version the new version of its definition
   * @param writing records that version, in the same transaction
   * @return the edition that is live now
   * @throws EditionRefusedException if there is none, or it lags
   */
  public synchronized Edition rollback(int version, Runnable writing)
      throws EditionRefusedException {
    Edition former = requireFormer();
    dropNext();
    goLive(former, former.entry().at(version), writing);
    return former;
  }

  /**
   * The edition that a rollback would restore.
   *
   * @throws EditionRefusedException if there is none, or it lags
   */
  public Edition requireFormer() throws EditionRefusedException {
    Edition former = editions.former();
    if (former == null) {
      throw new EditionRefusedException(
          ("index '%s' has no previous edition; apply an earlier version of its definition instead,"
                  + " which 'mnemex definitions' prints")
              .formatted(name));
    }
    CaughtUp.require(former, editions.live(), name, clock);
    return former;
  }

  /** Removes a previous edition once its time is over or it is no longer fed. */
  private void watch(@Nullable Edition former) {
    if (former != null) {
      transitions.later(LOOK_FOR_FORMER, () -> retireIfDue(former));
    }
  }

  private synchronized void retireIfDue(Edition former) {
    if (editions.former() != former) {
      return;
    }
    Instant until = former.entry().until();
    if (until != null && clock.instant().isBefore(until) && former.isFed()) {
      watch(former);
      return;
    }
    note(former, former.entry().in(State.RETIRED));
    editions = editions.withoutFormer();
    remove(former);
  }

  String name() {
    return name;
  }

  /** The edition of that number, or null. */
  @Nullable Edition edition(int number) {
    return editions.edition(number);
  }

  /** Notes why transitions are blocked; null when they work again. */
  void report(@Nullable String why) {
    problem = why;
  }

  /** Why transitions are blocked, or null. */
  public @Nullable String problem() {
    return problem;
  }

  /** Why a complete edition is not promoted, or null. */
  public @Nullable String held() {
    return held;
  }

  /** Approves held removals and a held promotion. */
  public synchronized void agree() {
    all().forEach(edition -> edition.feed().agree());
    Edition next = editions.next();
    if (held != null && next != null) {
      agreed = true;
      transitions.later(Duration.ZERO, () -> complete(next.number()));
    }
  }

  /** Pauses or resumes following the source. */
  public synchronized void pause(boolean stopped) {
    paused = stopped;
    all().forEach(edition -> edition.feed().pause(stopped));
  }

  public boolean isPaused() {
    return paused;
  }

  /** Stops everything and removes it, here and at the source. */
  public synchronized void discard() {
    transitions.stop();
    List<Edition> there = all();
    store.save(
        there.stream()
            .map(edition -> edition.entry().in(State.RETIRED))
            .toArray(EditionEntry[]::new));
    editions = EditionGroup.NONE;
    there.forEach(this::remove);
    folders.deleteAll();
  }

  /** The edition that answers, or null while the first one is being filled. */
  public @Nullable Edition live() {
    return editions.live();
  }

  /** The next edition, or null. */
  public @Nullable Edition next() {
    return editions.next();
  }

  /** The edition that answered before and can be restored, or null. */
  public @Nullable Edition former() {
    return editions.former();
  }

  /** The live edition, then the next, then the former. */
  public List<Edition> all() {
    return editions.all();
  }

  /** All recorded editions, by number. */
  public List<EditionEntry> history() {
    return store.of(keptAs);
  }

  @Override
  public void close() {
    closeAll(List.of(this));
  }

  /** Closes many indexes at once: each edition may wait for a database that does not answer. */
  public static void closeAll(Collection<Editions> indexes) {
    indexes.forEach(index -> index.transitions.stop());
    try (ExecutorService threads = Executors.newCachedThreadPool()) {
      indexes.stream()
          .flatMap(index -> index.all().stream())
          .forEach(edition -> threads.execute(edition::close));
    }
  }
}
