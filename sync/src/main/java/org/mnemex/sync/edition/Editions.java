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
 * The editions of one index: the live one that answers, at most one next one that is to follow it,
 * and at most one previous one that can be restored.
 *
 * <p>What there is is one immutable group, swapped in one write: a search that took the live
 * edition before a promotion finishes with it. What is written down is changed in one transaction
 * before the swap, so after a crash either the old edition is live or the new one.
 */
public final class Editions implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Editions.class);
  private static final Duration LOOK_FOR_FORMER = Duration.ofSeconds(2);

  /** Of those that were retired before, the source has heard. */
  private static final int LAST_RETIRED = 3;

  private final String keptAs;
  private volatile String name;
  private final EditionFolders folders;
  private final String installation;
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
   * @param keptAs the name under which it is written down, and known to its source
   * @param root folder of the index; each edition has a folder in it
   * @param installation what tells this installation from others that follow the same source
   * @param check asked before an edition goes live by itself
   * @param departures tells sources of editions that are gone
   */
  public Editions(
      String name,
      String keptAs,
      Path root,
      String installation,
      EditionStore store,
      Quarantine quarantine,
      Clock clock,
      PromotionCheck check,
      Departures departures) {
    this.departures = departures;
    this.name = name;
    this.keptAs = keptAs;
    this.folders = new EditionFolders(root);
    this.installation = installation;
    this.store = store;
    this.quarantine = quarantine;
    this.clock = clock;
    this.check = check;
    this.losses = new Losses(clock);
    this.transitions = new TransitionThread("editions-" + keptAs, () -> this.name);
    transitions.every(LOOK_FOR_FORMER, this::retireFormerIfDue);
  }

  /**
   * Opens what was written down and removes what was not. A damaged edition is given up: whoever
   * finds no edition of the current definition afterwards has to {@link #build} one.
   *
   * @param definitions the definition of a version
   * @throws IOException if a folder cannot be read; everything is left as it is
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
              // It could be written down, but not begun.
              note(surplus, surplus.entry().in(State.RETIRED));
              surplus.close();
            });
    Edition next = editions.next();
    if (next != null && next.entry().state() == State.READY) {
      held = "waiting for approval";
    }
    folders.keepOnly(editions.all());
    // A crash may have come before the source was told; it would keep changes for nobody.
    store.of(keptAs).reversed().stream()
        .filter(entry -> entry.state() == State.RETIRED)
        .limit(LAST_RETIRED)
        .forEach(entry -> departures.leave(source, reader(entry.number())));
    editions.all().forEach(Edition::start);
  }

  /** The name under which the source knows an edition. */
  public String reader(int number) {
    return OwnReaders.name(keptAs, number, installation);
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
        new FeedReactions(this, entry.number(), source, transitions, losses));
  }

  /**
   * Begins to build an edition from a definition, in place of one that was to follow the live one.
   *
   * @param plan from what, and whether it is promoted by itself when it has caught up
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

  /** Gives up the edition that was to follow the live one, if there is one. */
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
   * Gives an edition another version of its definition, which makes the same documents of the same
   * records: the next query has it.
   */
  public synchronized void redefine(Edition edition, IndexDefinition definition, int version) {
    store.save(edition.entry().at(version));
    edition.redefine(definition, edition.entry().at(version));
  }

  /** Gives the index another name. Where it is kept stays as it is. */
  public synchronized void rename(String other) {
    name = other;
    all()
        .forEach(
            edition ->
                edition.redefine(edition.definition().called(other, keptAs), edition.entry()));
  }

  /** Frees what a retired edition takes. What is left after a crash goes at the next start. */
  private void remove(Edition edition) {
    edition.discard();
    departures.leave(edition.source(), reader(edition.number()));
    try {
      quarantine.removeAll(keptAs, edition.number());
    } catch (UncheckedIOException e) {
      LOG.warn("index '{}': {}", name, e.getMessage());
    }
  }

  /** An edition has caught up: it goes live, unless somebody has to look first. */
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
    // A damaged edition answers nothing: whatever follows it is better.
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
        held = objection == null ? "waiting for approval" : objection;
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
   * Makes a complete edition live and lets the one before it wait for its end.
   *
   * @param as what is written down of it
   * @param also what is written down besides, in the same transaction
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
   * Makes the edition live that was to follow, on request.
   *
   * @return its number
   * @throws EditionRefusedException if there is none, or it is not complete, or lags
   */
  public synchronized int promote() throws EditionRefusedException {
    Edition next = editions.next();
    if (next == null) {
      throw new EditionRefusedException(
          "index '%s' has no edition that could be promoted; apply a definition first"
              .formatted(name));
    }
    CaughtUp.require(next, editions.live(), name, clock);
    goLive(next, next.entry(), () -> {});
    return next.number();
  }

  /**
   * Makes the former edition live again and keeps the present one for as long, so that this, too,
   * can be taken back. Nothing is lost: both were fed all the time.
   *
   * @param version the version that its definition has from now on
   * @param writing writes that version down, in the same transaction
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
   * The edition that a rollback would bring back.
   *
   * @throws EditionRefusedException if there is none, or it lags
   */
  public Edition requireFormer() throws EditionRefusedException {
    Edition former = editions.former();
    if (former == null) {
      throw new EditionRefusedException(
          ("index '%s' has no former edition; apply a former version of its definition instead,"
                  + " which 'mnemex definitions' prints")
              .formatted(name));
    }
    CaughtUp.require(former, editions.live(), name, clock);
    return former;
  }

  private void retireFormerIfDue() {
    try {
      synchronized (this) {
        Edition former = editions.former();
        Instant until = former == null ? null : former.entry().until();
        if (former != null
            && (until == null || !clock.instant().isBefore(until) || !former.isFed())) {
          note(former, former.entry().in(State.RETIRED));
          editions = editions.withoutFormer();
          remove(former);
        }
      }
    } catch (RuntimeException e) {
      LOG.warn("index '{}': its former edition could not be removed yet", name, e);
    }
  }

  String name() {
    return name;
  }

  /** The edition of that number, or null. */
  @Nullable Edition edition(int number) {
    return editions.edition(number);
  }

  /** Notes why editions cannot be taken care of at the moment; null when they can again. */
  void report(@Nullable String why) {
    problem = why;
  }

  /** Why editions cannot be taken care of at the moment, or null. */
  public @Nullable String problem() {
    return problem;
  }

  /** Why a complete edition is not promoted, or null. */
  public @Nullable String held() {
    return held;
  }

  /** Lets the documents go that were held back, and an edition be promoted that was objected to. */
  public synchronized void agree() {
    all().forEach(edition -> edition.feed().agree());
    Edition next = editions.next();
    if (held != null && next != null) {
      agreed = true;
      transitions.later(Duration.ZERO, () -> complete(next.number()));
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

  /** All that was ever written down, by number. */
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
