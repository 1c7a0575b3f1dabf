package org.mnemex.service.install;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.FileSystemException;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.EngineException;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.References;
import org.mnemex.service.install.RunningDefinition.FollowedIndex;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.change.DefinitionDifferences;
import org.mnemex.sync.change.Difference;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Builder;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.EditionRefusedException;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.push.PushStore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Holds what is running, and changes it by applying definitions.
 *
 * <p>Applying has five steps: definitions are parsed ({@link ParsedChanges}), checked against each
 * other and what runs ({@link CheckedChanges}), and checked against the databases; databases are
 * prepared ({@link DatabaseCheck}); all versions are written down in one transaction; then what
 * runs is swapped and editions are begun. An error before the preparation changes nothing, and a
 * crash after the transaction is made up for at the next start.
 */
@Component
public class Installation {
  private static final Logger LOG = LoggerFactory.getLogger(Installation.class);

  private final DefinitionMapper definitions;
  private final TransactionTemplate transaction;
  private final InstallationParts parts;
  private final PlanReview review;
  private final boolean follows;
  private final ChangeThread changing = new ChangeThread();
  private final Map<String, Failure> failures = new ConcurrentHashMap<>();

  /** Why sources could not be started, by name. */
  private final Map<String, String> stoppedSources = new ConcurrentHashMap<>();

  private final InstalledReaders readers;
  private volatile Running running = Running.NOTHING;

  /**
   * An index that could not be started.
   *
   * @param row its definition
   * @param why what prevents it from running, and what to do
   */
  public record Failure(DefinitionRow row, String why) {}

  public Installation(
      DefinitionMapper definitions,
      EditionStore editionStore,
      Quarantine quarantine,
      PushStore pushes,
      TransactionTemplate transaction,
      Clock clock,
      PromotionChecks checks,
      StoredDepartures departures,
      PlanReview review,
      RestoredData restored,
      MnemexSettings settings) {
    this.follows = settings.role() == MnemexSettings.Role.SEARCH;
    this.definitions = definitions;
    this.transaction = transaction;
    this.review = review;
    this.readers =
        new InstalledReaders(
            restored.installation(), editionStore, () -> running, failures::values);
    this.parts =
        new InstallationParts(
            new Builder(restored.installation(), settings.ownShard()),
            settings.data().resolve("indexes"),
            new DefinitionReader(
                new References(
                    System::getenv,
                    settings.allow().variables(),
                    settings.allow().folders().stream().map(Path::of).toList())),
            definitions,
            editionStore,
            quarantine,
            pushes,
            checks,
            departures,
            readers.positions(),
            clock);
  }

  /**
   * Starts everything that was applied before. What cannot be started does not keep the others from
   * running: it is named in the log and in the status of indexes, and tried again from time to
   * time.
   */
  @PostConstruct
  void start() {
    List<DefinitionRow> rows = definitions.current();
    if (follows && !rows.isEmpty()) {
      throw new SettingsException(
          "this data folder has definitions of its own, so it is no folder for a search node; set --mnemex.data to another one");
    }
    for (DefinitionRow row : rows) {
      if (row.kind() != DefinitionKind.INDEX) {
        try {
          running = running.with(parts.run(row));
        } catch (RuntimeException e) {
          LOG.error("{} '{}' is not running: {}", row.kind(), row.name(), e.getMessage());
          if (row.kind() == DefinitionKind.SOURCE) {
            stoppedSources.put(row.name(), String.valueOf(e.getMessage()));
          }
        }
      }
    }
    for (DefinitionRow row : rows) {
      if (row.kind() == DefinitionKind.INDEX) {
        openIndexOrNote(row);
      }
    }
    readers.started();
    running.sources().values().forEach(source -> parts.departures().resume(source.source()));
  }

  private void openIndexOrNote(DefinitionRow row) {
    try {
      running = running.with(openIndex(row));
      failures.remove(row.name());
    } catch (IOException | RuntimeException e) {
      boolean explained =
          e instanceof EngineException
              || e instanceof DefinitionException
              || e instanceof SourceStoppedException;
      String why =
          explained
              ? String.valueOf(e.getMessage())
              : "its folder %s cannot be opened: %s. Fix that; the service retries"
                  .formatted(parts.indexFolder().resolve(row.keptAs()), inWords(e));
      Failure before = failures.put(row.name(), new Failure(row, why));
      if (before == null || !before.why().equals(why)) {
        LOG.error("index '{}' is not running: {}", row.name(), why, explained ? null : e);
      }
    }
  }

  /** Many file errors have only a path as message; the type then says what happened. */
  private static String inWords(Exception e) {
    return e.getClass() == FileSystemException.class
        ? String.valueOf(e.getMessage())
        : e.getClass().getSimpleName() + ": " + e.getMessage();
  }

  /** The indexes that could not be started, by name. */
  public Map<String, Failure> failures() {
    return Map.copyOf(failures);
  }

  /** Retries indexes that could not be started. */
  @Scheduled(fixedDelay = 15, initialDelay = 15, timeUnit = TimeUnit.SECONDS)
  void startAgain() {
    if (failures.isEmpty()) {
      return;
    }
    changing.call(
        () -> {
          for (Failure failure : failures.values()) {
            openIndexOrNote(failure.row());
            if (running.indexes().containsKey(failure.row().name())) {
              LOG.info("index '{}' is running now", failure.row().name());
            }
          }
          return running;
        });
  }

  private RunningIndex openIndex(DefinitionRow row) throws IOException {
    Definition definition = parts.readIndex(row);
    IndexDefinition index = ((Definition.OfIndex) definition.content()).index();
    RunningSource source = running.sources().get(index.source());
    if (source == null) {
      String why = stoppedSources.get(index.source());
      throw new SourceStoppedException(index.source(), why == null ? "it was not started" : why);
    }
    Editions editions = parts.editions(row.name(), row.keptAs());
    editions.open(
        version -> {
          DefinitionRow old = definitions.version(DefinitionKind.INDEX, row.name(), version);
          return ((Definition.OfIndex) parts.readIndex(old == null ? row : old).content()).index();
        },
        source.source());
    RunningIndex opened = new RunningIndex(definition, row.version(), index, editions);
    if (!isBegun(opened)) {
      // A crash came between recording and starting the edition, or the edition was damaged.
      IndexStep.of(opened, source.definition().text(), parts).carryOut(source.source(), row.hold());
    }
    return opened;
  }

  private static boolean isBegun(RunningIndex index) {
    return index.editions().all().stream().anyMatch(e -> e.version() == index.version());
  }

  /** Starts editions that could not be started when they were applied, such as on a full disk. */
  @Scheduled(fixedDelay = 5, initialDelay = 5, timeUnit = TimeUnit.SECONDS)
  void makeUp() {
    if (running.indexes().values().stream().allMatch(Installation::isBegun)) {
      return;
    }
    changing.call(
        () -> {
          for (RunningIndex index : running.indexes().values()) {
            String name = index.index().name();
            RunningSource source = running.sources().get(index.index().source());
            DefinitionRow row = definitions.version(DefinitionKind.INDEX, name, index.version());
            if (!isBegun(index) && source != null && row != null) {
              try {
                carryOut(
                    IndexStep.of(index, source.definition().text(), parts), source, row.hold());
                LOG.info("index '{}': version {} starts now", name, index.version());
              } catch (UncheckedIOException e) {
                LOG.warn("index '{}': {}; trying again", name, e.getMessage());
              }
            }
          }
          return running;
        });
  }

  /** Ends all feeds, committing what they have applied. */
  @PreDestroy
  void stop() {
    changing.close();
    Editions.closeAll(running.indexes().values().stream().map(RunningIndex::editions).toList());
  }

  /**
   * What applying some definitions would do. Nothing is changed.
   *
   * @throws DefinitionException with every problem that was found
   */
  public PlanView plan(List<DefinitionFile> files) {
    return changing.call(
        () -> {
          CheckedChanges changes = checked(ParsedChanges.of(files), CheckedChanges.Wish.NONE);
          DatabaseCheck.check(changes);
          return review.of(changes, files);
        });
  }

  private CheckedChanges checked(ParsedChanges parsed, CheckedChanges.Wish wish) {
    return new CheckedChanges(parts, running, failures(), parsed, wish);
  }

  /**
   * What one version of an index asks for and another does not, and what that takes.
   *
   * @throws DefinitionException if a version can no longer be read
   */
  public List<Difference> differences(DefinitionRow from, DefinitionRow to) {
    RunningIndex index = running.indexes().get(to.name());
    Edition live = index == null ? null : index.editions().live();
    return DefinitionDifferences.between(
        ((Definition.OfIndex) parts.readIndex(from).content()).index(),
        ((Definition.OfIndex) parts.readIndex(to).content()).index(),
        live == null ? null : live.feed().columns());
  }

  /** Problems in definitions that can be found without asking databases. */
  public List<DefinitionProblem> check(List<DefinitionFile> files) {
    try {
      after(files);
      return List.of();
    } catch (DefinitionException e) {
      return e.problems();
    }
  }

  /**
   * What would run if definitions were applied. Databases are not asked.
   *
   * @throws DefinitionException with every problem that was found
   */
  public Running after(List<DefinitionFile> files) {
    return checked(ParsedChanges.of(files), CheckedChanges.Wish.NONE).after();
  }

  /**
   * How definitions are applied.
   *
   * @param prepare whether what they need in databases may be made there
   * @param plan the plan that was approved; null to apply whatever that takes
   * @param hold whether new editions wait for approval when they are complete
   * @param author who applies them; empty if unknown
   */
  public record ApplyOptions(boolean prepare, @Nullable String plan, boolean hold, String author) {}

  /**
   * Applies definitions: all of them, or none.
   *
   * @throws DefinitionException with every problem that was found
   * @throws ProblemException if another plan was approved
   */
  public List<Applied> apply(List<DefinitionFile> files, ApplyOptions options) {
    return changing.call(() -> applyNow(files, options));
  }

  private List<Applied> applyNow(List<DefinitionFile> files, ApplyOptions options) {
    CheckedChanges.Wish wish = new CheckedChanges.Wish(options.author(), options.hold());
    CheckedChanges changes = checked(ParsedChanges.of(files), wish);
    DatabaseCheck.check(changes);
    if (options.plan() != null && !options.plan().equals(review.of(changes, files).plan())) {
      throw new ProblemException(
          ProblemType.PLAN_OUTDATED,
          "plan %s is outdated: definitions or indexes have changed since; make a new one"
              .formatted(options.plan()));
    }
    DatabaseCheck.prepare(changes, options.prepare());
    transaction.executeWithoutResult(
        status -> {
          changes.renamed().forEach(definitions::renameIndex);
          changes.toStore().forEach(definitions::insert);
        });
    running = changes.after();
    List<Applied> applied = new ArrayList<>(changes.applied());
    List<String> notBegun = new ArrayList<>();
    for (IndexStep step : changes.steps().values()) {
      RunningSource source = running.sources().get(step.index().index().source());
      if (source != null) {
        try {
          Integer edition = carryOut(step, source, options.hold());
          applied.replaceAll(one -> one.of(step, edition));
        } catch (UncheckedIOException e) {
          notBegun.add("index '%s': %s".formatted(step.index().index().name(), e.getMessage()));
        }
      }
    }
    if (!notBegun.isEmpty()) {
      throw new ProblemException(
          ProblemType.NOT_BEGUN,
          "the definitions are applied, but could not take effect (%s); the service retries. Free some disk space"
              .formatted(String.join("; ", notBegun)));
    }
    return applied;
  }

  private static @Nullable Integer carryOut(IndexStep step, RunningSource source, boolean hold) {
    try {
      return step.carryOut(source.source(), hold);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /**
   * Promotes the edition of an index that waits.
   *
   * @return its number
   * @throws ProblemException if none can be promoted
   */
  public int promote(String index) {
    try {
      return running.index(index).editions().promote();
    } catch (EditionRefusedException e) {
      throw refused(e);
    }
  }

  /**
   * Restores the previous edition of an index, and its definition as a new version.
   *
   * @param author who asks for it; empty if unknown
   * @return the edition's number
   * @throws ProblemException if none can be restored
   */
  public int rollback(String name, String author) {
    return changing.call(() -> rollbackNow(name, author));
  }

  private int rollbackNow(String name, String author) {
    RunningIndex index = running.index(name);
    try {
      Edition former = index.editions().requireFormer();
      DefinitionRow old = definitions.version(DefinitionKind.INDEX, name, former.version());
      if (old == null) {
        throw new IllegalStateException("version " + former.version() + " is not recorded yet");
      }
      int version = index.version() + 1;
      DefinitionRow row = old.again(version, author, parts.clock().instant().toString());
      Edition live = index.editions().rollback(version, () -> definitions.insert(row));
      running =
          running.with(
              new RunningIndex(parts.readIndex(row), version, live.definition(), index.editions()));
      return live.number();
    } catch (EditionRefusedException e) {
      throw refused(e);
    }
  }

  private static ProblemException refused(EditionRefusedException e) {
    return new ProblemException(ProblemType.EDITION_REFUSED, String.valueOf(e.getMessage()));
  }

  /**
   * Removes a definition; for an index, also its editions.
   *
   * @throws ProblemException if there is none, or another definition needs it
   */
  public void remove(DefinitionId id) {
    changing.call(
        () -> {
          removeNow(id);
          return running;
        });
  }

  private void removeNow(DefinitionId id) {
    RunningDefinition found = running.get(id);
    if (found == null) {
      throw new ProblemException(ProblemType.UNKNOWN_DEFINITION, "there is no " + id);
    }
    List<DefinitionId> users = running.usersOf(id);
    if (!users.isEmpty()) {
      throw new ProblemException(
          ProblemType.DEFINITION_IN_USE,
          "%s is needed by %s; remove that first"
              .formatted(
                  id,
                  users.stream().map(DefinitionId::toString).collect(Collectors.joining(", "))));
    }
    definitions.remove(id.kind(), id.name());
    running = running.without(id);
    switch (found) {
      case RunningSource source -> parts.departures().forget(id.name());
      case RunningIndex index -> index.editions().discard();
      default -> {
        // It needed no preparation.
      }
    }
  }

  /**
   * Reads the definition of an index that is built elsewhere.
   *
   * @throws DefinitionException if it cannot be read
   */
  public Definition read(DefinitionRow index) {
    return parts.readIndex(index);
  }

  /**
   * Runs what is built elsewhere, instead of what ran before.
   *
   * @param others the current version of each definition that is no index and no source, and
   *     earlier ones of endpoints; the newest first
   * @param indexes the indexes
   * @throws DefinitionException if a definition cannot be read; nothing has changed
   */
  public void follow(List<DefinitionRow> others, List<FollowedIndex> indexes) {
    List<RunningDefinition> all = new ArrayList<>(parts.follow(others));
    all.addAll(indexes);
    running = new Running(all);
  }

  /** The readers of all existing editions. */
  public InstalledReaders readers() {
    return readers;
  }

  /** Identifies this installation at its sources. */
  public String id() {
    return parts.builder().installation();
  }

  /** Everything that runs. */
  public Running running() {
    return running;
  }
}
