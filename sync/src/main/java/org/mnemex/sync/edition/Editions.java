package org.mnemex.sync.edition;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.IntFunction;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.change.DefinitionDifferences;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionStore.EditionEntry;
import org.mnemex.sync.edition.EditionStore.FillPlan;
import org.mnemex.sync.edition.EditionStore.Filled;
import org.mnemex.sync.edition.EditionStore.State;
import org.mnemex.sync.feed.Feed;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.feed.StoredOrigin;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.Source;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The editions of one index: the live one that answers, at most one that shall follow it, and at
 * most one that went before it and can be had back.
 *
 * <p>What there is is one immutable group, swapped in one write: whoever took the live edition
 * before a promotion finishes with it. What is written down is changed in one transaction before
 * the swap, so after a crash either the old edition is live or the new one.
 */
public final class Editions implements AutoCloseable {
  private static final Logger LOG = LoggerFactory.getLogger(Editions.class);
  private static final Duration LOOK_FOR_FORMER = Duration.ofSeconds(2);
  private static final Duration TRY_AGAIN = Duration.ofSeconds(2);

  /** Positions lost within this time are counted together. */
  private static final Duration LOSSES_COUNTED = Duration.ofHours(1);

  /** So many lost positions are made up for at once. */
  private static final int LOSSES_BORNE = 3;

  private static final Duration LONGEST_LOSS_PAUSE = Duration.ofHours(1);

  /** Of those that were retired before, the source has heard. */
  private static final int LAST_RETIRED = 3;

  /** So far behind the database no edition takes another's place. */
  private static final Duration MAX_LAG = Duration.ofSeconds(30);

  private final String keptAs;
  private volatile String name;
  private final Path root;
  private final String installation;
  private final EditionStore store;
  private final Quarantine quarantine;
  private final Clock clock;
  private final PromotionCheck check;
  private final Departures departures;
  private final ScheduledExecutorService transitions;
  private volatile Group editions = new Group(null, null, null);
  private volatile boolean paused;
  private volatile @Nullable String held;
  private volatile @Nullable String problem;
  private boolean agreed;

  /** When editions lost their positions lately. */
  private final Deque<Instant> losses = new ArrayDeque<>();

  private record Group(@Nullable Edition live, @Nullable Edition next, @Nullable Edition former) {
    List<Edition> all() {
      return Stream.of(live, next, former).flatMap(e -> Stream.ofNullable(e)).toList();
    }
  }

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
    this.root = root;
    this.installation = installation;
    this.store = store;
    this.quarantine = quarantine;
    this.clock = clock;
    this.check = check;
    this.transitions =
        Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().name("editions-" + keptAs).daemon().factory());
    transitions.scheduleWithFixedDelay(
        this::retireFormerIfDue,
        LOOK_FOR_FORMER.toMillis(),
        LOOK_FOR_FORMER.toMillis(),
        TimeUnit.MILLISECONDS);
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
    Edition live = null;
    Edition next = null;
    Edition former = null;
    for (Edition edition : opened) {
      switch (edition.entry().state()) {
        case LIVE -> live = edition;
        case FORMER -> former = edition;
        default -> {
          if (next != null) {
            // It could be written down, but not begun.
            note(next, next.entry().in(State.RETIRED));
            next.close();
          }
          next = edition;
        }
      }
    }
    if (next != null && next.entry().state() == State.READY) {
      held = "it waits for a person's word";
    }
    editions = new Group(live, next, former);
    removeLeftovers();
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
        folder(entry.number()),
        source,
        quarantine,
        clock,
        reader(entry.number()),
        entry.plan().fromStored() ? new LiveRecords(definition.shape().key().size()) : null,
        new Transitions(entry.number(), source));
  }

  private Path folder(int number) {
    return root.resolve("edition-" + number);
  }

  private void removeLeftovers() throws IOException {
    if (!Files.isDirectory(root)) {
      return;
    }
    Set<Path> wanted = new HashSet<>();
    editions.all().forEach(edition -> wanted.add(folder(edition.number())));
    try (Stream<Path> folders = Files.list(root)) {
      for (Path folder : folders.toList()) {
        if (!wanted.contains(folder)) {
          Edition.deleteFolder(folder);
        }
      }
    }
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
    boolean fromStored = plan.fromStored() && editions.live != null;
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
      Edition.deleteFolder(folder(number));
      edition = open(entry, definition, source);
    } catch (IOException e) {
      store.save(entry.in(State.RETIRED));
      throw e;
    }
    editions = new Group(editions.live, edition, editions.former);
    LOG.info("index '{}': edition {} is begun", name, number);
    edition.feed().pause(paused);
    edition.start();
    return number;
  }

  /** Gives up the edition that was to follow the live one, if there is one. */
  public synchronized void dropNext() {
    Edition next = editions.next;
    if (next != null) {
      note(next, next.entry().in(State.RETIRED));
      editions = new Group(editions.live, null, editions.former);
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

  /** Does something until what it has to write down can be written: a disk may be full. */
  private void insist(Runnable work) {
    try {
      work.run();
    } catch (UncheckedIOException e) {
      LOG.warn("index '{}': {}; trying again", name, e.getMessage());
      later(TRY_AGAIN, work);
    } catch (RuntimeException | Error e) {
      LOG.error("index '{}': a change of its editions failed; trying again", name, e);
      later(TRY_AGAIN, work);
    }
  }

  /** An edition has caught up: it goes live, unless somebody has to look first. */
  private void complete(int number) {
    Edition filled;
    Edition live;
    synchronized (this) {
      filled = editions.next;
      live = editions.live;
      if (filled == null || filled.number() != number) {
        return;
      }
      FeedStatus status = filled.feed().status();
      if (filled.entry().filled() == null && status.recordsDone() > 0) {
        long rate = Math.max(1, status.recordsPerSecond());
        note(
            filled,
            filled
                .entry()
                .filled(new Filled(status.recordsDone(), status.recordsDone() * 1000 / rate)));
      }
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
      if (editions.next != filled) {
        return;
      }
      boolean asked = filled.entry().plan().hold();
      if (!needed && !agreed && (objection != null || asked)) {
        note(filled, filled.entry().in(State.READY));
        held = objection == null ? "it waits for a person's word" : objection;
        LOG.info("index '{}': edition {} is complete; {}", name, number, held);
        return;
      }
      try {
        // The checks may have taken minutes.
        requireCaughtUp(filled);
      } catch (EditionRefusedException e) {
        LOG.info("index '{}': {}", name, e.getMessage());
        later(TRY_AGAIN, () -> complete(number));
        return;
      }
      goLive(filled, filled.entry(), () -> {});
    }
  }

  private void later(Duration pause, Runnable work) {
    try {
      transitions.schedule(() -> insist(work), pause.toMillis(), TimeUnit.MILLISECONDS);
    } catch (RejectedExecutionException _) {
      LOG.debug("index '{}' is being closed", name);
    }
  }

  /** Something failed that reads an edition: its files are compared with their checksums. */
  private void suspect(int number) {
    Edition edition = all().stream().filter(one -> one.number() == number).findFirst().orElse(null);
    if (edition == null) {
      return;
    }
    Thread.ofPlatform()
        .name("verify-" + keptAs + "-" + number)
        .daemon()
        .start(
            () -> {
              String damage = edition.lookForDamage();
              if (damage != null) {
                later(Duration.ZERO, () -> replaceDamaged(edition, damage));
              }
            });
  }

  private synchronized void replaceDamaged(Edition edition, String damage) {
    if (!all().contains(edition)) {
      return;
    }
    LOG.error(
        "index '{}': edition {} is damaged and no longer used: {}", name, edition.number(), damage);
    edition.giveUp(damage);
    Edition next = editions.next;
    if (edition == editions.former) {
      // It is removed after its grace time as usual; nobody can roll back to it until then.
      return;
    }
    boolean nextIsOfUse =
        next != null
            && next != edition
            && (!next.entry().plan().fromStored() || next.feed().isComplete());
    if (!nextIsOfUse) {
      Edition base = Objects.requireNonNullElse(next, edition);
      buildFromDatabase(
          base.definition(), base.version(), base.source(), base.entry().plan().hold());
    } else if (held != null) {
      // Somebody had to decide between it and an edition that answers.
      later(Duration.ZERO, () -> complete(next.number()));
    }
  }

  private void buildFromDatabase(
      IndexDefinition definition, int version, Source source, boolean hold) {
    try {
      build(definition, version, source, new FillPlan(false, hold));
    } catch (IOException e) {
      throw new UncheckedIOException("no new edition could be begun: " + e.getMessage(), e);
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
    Group before = editions;
    Edition former = before.live;
    Instant end = clock.instant().plus(edition.definition().grace());
    boolean keep =
        former != null
            && clock.instant().isBefore(end)
            && isFed(former)
            && DefinitionDifferences.newlyForbidden(former.definition(), edition.definition())
                .isEmpty();
    Edition next = before.next == edition ? null : before.next;
    Edition older = before.former == edition ? null : before.former;
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
    editions = new Group(edition, next, keep ? former : null);
    if (before.next == edition) {
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

  private static boolean isFed(Edition edition) {
    return switch (edition.feed().phase()) {
      case LOST, STOPPED -> false;
      default -> true;
    };
  }

  /**
   * Makes the edition live that was to follow, at a person's word.
   *
   * @return its number
   * @throws EditionRefusedException if there is none, or it is not complete, or lags
   */
  public synchronized int promote() throws EditionRefusedException {
    Edition next = editions.next;
    if (next == null) {
      throw new EditionRefusedException(
          "index '%s' has no edition that could be promoted; apply a definition first"
              .formatted(name));
    }
    requireCaughtUp(next);
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
    Edition former = editions.former;
    if (former == null) {
      throw new EditionRefusedException(
          ("index '%s' has no former edition; apply a former version of its definition instead,"
                  + " which 'mnemex definitions' prints")
              .formatted(name));
    }
    requireCaughtUp(former);
    return former;
  }

  private void requireCaughtUp(Edition edition) throws EditionRefusedException {
    FeedStatus status = edition.feed().status();
    String which = "edition %d of index '%s'".formatted(edition.number(), name);
    if (!edition.feed().isComplete()) {
      throw new EditionRefusedException(
          "%s is still being filled (%,d of %,d records); promote it when it is complete"
              .formatted(which, status.recordsDone(), status.recordsTotal()));
    }
    Instant trueAt = status.trueAt();
    if (status.phase() != FeedStatus.Phase.LIVE
        || trueAt == null
        || trueAt.isBefore(clock.instant().minus(MAX_LAG))) {
      Edition live = editions.live;
      boolean liveLagsToo =
          live != null && live.feed().phase() == status.phase() && status.problem() != null;
      if (!liveLagsToo) {
        throw new EditionRefusedException(
            "%s lags behind the database (%s%s); wait until it has caught up"
                .formatted(
                    which,
                    status.phase().name().toLowerCase(java.util.Locale.ROOT),
                    status.problem() == null ? "" : ": " + status.problem()));
      }
    }
  }

  private void retireFormerIfDue() {
    try {
      synchronized (this) {
        Edition former = editions.former;
        Instant until = former == null ? null : former.entry().until();
        if (former != null
            && (until == null || !clock.instant().isBefore(until) || !isFed(former))) {
          note(former, former.entry().in(State.RETIRED));
          editions = new Group(editions.live, editions.next, null);
          remove(former);
        }
      }
    } catch (RuntimeException e) {
      LOG.warn("index '{}': its former edition could not be removed yet", name, e);
    }
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
    Edition next = editions.next;
    if (held != null && next != null) {
      agreed = true;
      later(Duration.ZERO, () -> complete(next.number()));
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
    store.save(
        there.stream()
            .map(edition -> edition.entry().in(State.RETIRED))
            .toArray(EditionEntry[]::new));
    editions = new Group(null, null, null);
    there.forEach(this::remove);
    Edition.deleteFolder(root);
  }

  /** The edition that answers, or null while the first one is being filled. */
  public @Nullable Edition live() {
    return editions.live;
  }

  /** The edition that shall follow the live one, or null. */
  public @Nullable Edition next() {
    return editions.next;
  }

  /** The edition that answered before and can be had back, or null. */
  public @Nullable Edition former() {
    return editions.former;
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
    indexes.forEach(index -> index.transitions.shutdownNow());
    try (ExecutorService threads = Executors.newCachedThreadPool()) {
      indexes.stream()
          .flatMap(index -> index.all().stream())
          .forEach(edition -> threads.execute(edition::close));
    }
  }

  /** The records that the live edition has stored. */
  private final class LiveRecords implements StoredOrigin {
    private final int keyColumns;

    LiveRecords(int keyColumns) {
      this.keyColumns = keyColumns;
    }

    private Edition live() {
      Edition live = editions.live;
      if (live == null) {
        throw new OriginGoneException();
      }
      return live;
    }

    @Override
    public @Nullable Snapshot at(Position position) {
      Edition live = live();
      Position visible = live.feed().position();
      if (live.feed().phase() == FeedStatus.Phase.LOST
          || visible != null && !visible.history().equals(position.history())) {
        throw new OriginGoneException();
      }
      return live.feed().isComplete() && visible != null && visible.reaches(position)
          ? live.folder().snapshot()
          : null;
    }

    @Override
    public @Nullable ReadColumns columns() {
      Edition live = editions.live;
      return live == null ? null : live.feed().columns();
    }

    @Override
    public Set<RecordKey> unreadable() {
      return quarantine.keys(keptAs, live().number()).stream()
          .map(key -> RecordKey.parse(key, keyColumns))
          .collect(Collectors.toSet());
    }
  }

  /** How long to wait before a lost position is made up for: what takes it may do so again. */
  private Duration pauseAfterLoss() {
    Instant now = clock.instant();
    losses.removeIf(loss -> loss.isBefore(now.minus(LOSSES_COUNTED)));
    losses.add(now);
    int more = losses.size() - LOSSES_BORNE;
    if (more <= 0) {
      return Duration.ZERO;
    }
    Duration pause = Duration.ofMinutes(1L << Math.min(more, 6));
    return pause.compareTo(LONGEST_LOSS_PAUSE) > 0 ? LONGEST_LOSS_PAUSE : pause;
  }

  /** What feeds say is acted on by another thread, because it ends the feed's own. */
  private final class Transitions implements Feed.Listener {
    private final int number;
    private final Source source;

    Transitions(int number, Source source) {
      this.number = number;
      this.source = source;
    }

    @Override
    public void caughtUp() {
      later(Duration.ZERO, () -> complete(number));
    }

    @Override
    public void positionLost(String why) {
      later(Duration.ZERO, () -> replace(why));
    }

    @Override
    public void failed(Throwable cause) {
      later(Duration.ZERO, () -> suspect(number));
    }

    private void replace(String why) {
      synchronized (Editions.this) {
        Edition lost = all().stream().filter(e -> e.number() == number).findFirst().orElse(null);
        if (lost == null || lost == editions.former) {
          // A former edition that is no longer fed is of no use; it goes.
          return;
        }
        Duration pause = pauseAfterLoss();
        if (!pause.isZero()) {
          problem =
              "positions were lost %d times within an hour, the last time because %s; the next edition is begun in %d minutes"
                  .formatted(losses.size(), why, pause.toMinutes());
          LOG.error("index '{}': {}", name, problem);
          later(pause, () -> begin(why));
          return;
        }
        begin(why);
      }
    }

    private void begin(String why) {
      synchronized (Editions.this) {
        problem = null;
        Edition lost = all().stream().filter(e -> e.number() == number).findFirst().orElse(null);
        if (lost != null) {
          LOG.warn("index '{}': {}; filling a new edition beside the live one", name, why);
          Edition base = Objects.requireNonNullElse(editions.next, lost);
          buildFromDatabase(base.definition(), base.version(), source, base.entry().plan().hold());
        }
      }
    }
  }
}
