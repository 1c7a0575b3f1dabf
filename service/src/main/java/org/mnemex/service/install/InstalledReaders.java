package org.mnemex.service.install;

import java.util.Collection;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Predicate;
import java.util.function.Supplier;
import org.mnemex.service.install.Installation.Failure;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.ReaderPositions;

/** The readers of all editions, including those of indexes that could not be started. */
public final class InstalledReaders implements ReaderPositions.Existing {
  private final Supplier<Running> running;
  private final Supplier<Collection<Failure>> failures;
  private final ReaderPositions positions = new ReaderPositions(this);
  private final String installation;
  private final EditionStore store;
  private volatile boolean known;

  /**
   * Readers, not all known yet.
   *
   * @param installation identifies this installation
   * @param failures the indexes that could not be started
   */
  InstalledReaders(
      String installation,
      EditionStore store,
      Supplier<Running> running,
      Supplier<Collection<Failure>> failures) {
    this.installation = installation;
    this.store = store;
    this.running = running;
    this.failures = failures;
  }

  /** All indexes were started, or could not be. */
  void started() {
    known = true;
  }

  /** How far they are. */
  ReaderPositions positions() {
    return positions;
  }

  @Override
  public boolean areKnown() {
    return known;
  }

  @Override
  public Set<String> at(String source) {
    return of(source).keySet();
  }

  /** The readers of a source, with a description of the edition. */
  public Map<String, String> of(String source) {
    return matching(source::equals);
  }

  /** All readers, with a description of the edition. */
  public Map<String, String> all() {
    return matching(source -> true);
  }

  private Map<String, String> matching(Predicate<String> source) {
    Map<String, String> readers = new TreeMap<>();
    for (RunningIndex index : running.get().indexes().values()) {
      for (Edition edition : index.editions().all()) {
        if (source.test(edition.source().name())) {
          readers.put(
              index.editions().reader(edition.number()),
              "edition %d of index '%s'".formatted(edition.number(), index.index().name()));
        }
      }
    }
    for (Failure failure : failures.get()) {
      String needed = InstallationParts.sourceName(failure.row());
      if (needed.isEmpty() || source.test(needed)) {
        readers.putAll(ofFailed(failure));
      }
    }
    return readers;
  }

  private Map<String, String> ofFailed(Failure failure) {
    Map<String, String> readers = new TreeMap<>();
    for (EditionStore.EditionEntry entry : store.of(failure.row().keptAs())) {
      if (entry.state() != EditionStore.State.RETIRED) {
        readers.put(
            OwnReaders.name(failure.row().keptAs(), entry.number(), installation),
            "edition %d of index '%s', which is not running"
                .formatted(entry.number(), failure.row().name()));
      }
    }
    return readers;
  }

  /** The readers of this installation, for its sources. */
  public OwnReaders own() {
    return new OwnReaders(installation, all().keySet());
  }
}
