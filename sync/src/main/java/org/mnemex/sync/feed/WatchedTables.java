package org.mnemex.sync.feed;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * The tables of an edition: whether they are still as they were when it was started, and their
 * changes captured. Used by the feed's thread.
 */
final class WatchedTables {
  /** How often tables are looked at, and how old what is seen may be. */
  private static final Duration INTERVAL = Duration.ofSeconds(15);

  private final Source source;
  private final Supplier<IndexDefinition> definition;
  private final Clock clock;
  private @Nullable ReadColumns columns;
  private Instant lastCheck = Instant.EPOCH;
  private long lastNanos = System.nanoTime();

  WatchedTables(Source source, Supplier<IndexDefinition> definition, Clock clock) {
    this.source = source;
    this.definition = definition;
    this.clock = clock;
  }

  /** The columns that are read; null before the start. */
  @Nullable ReadColumns columns() {
    return columns;
  }

  /** Continues with known columns. */
  void resume(@Nullable ReadColumns known) {
    columns = known;
  }

  /**
   * Checks the tables now.
   *
   * @param followed whether changes have been followed, so that none may have been missed
   * @throws PositionLostException if only a new edition can help
   */
  void check(boolean followed) throws SourceUnavailableException {
    accept(source.columns(definition.get().shape()));
    if (followed) {
      for (Requirement requirement :
          source.requirements(definition.get().shape().watchedColumns())) {
        // Preparing again would not recover the changes that were missed.
        if (requirement.isMissing() && requirement.kind() == Requirement.Kind.PREPARABLE) {
          throw new PositionLostException(
              "changes may not have been captured; this no longer held: " + requirement.what());
        }
      }
    }
  }

  /**
   * Checks the tables from time to time, as somebody has seen them since the last check.
   *
   * @throws PositionLostException if only a new edition can help
   */
  void checkIfDue(boolean followed) throws SourceUnavailableException {
    if (Duration.between(lastCheck, clock.instant()).compareTo(INTERVAL) < 0) {
      return;
    }
    Duration since = Duration.ofNanos(System.nanoTime() - lastNanos);
    ReadColumns seen =
        source.seenColumns(
            definition.get().shape(), since.compareTo(INTERVAL) < 0 ? since : INTERVAL);
    if (seen == null) {
      check(followed);
    } else {
      accept(seen);
    }
  }

  private void accept(ReadColumns now) throws SourceUnavailableException {
    ReadColumns before = columns;
    columns =
        before == null
            ? ColumnsCheck.first(definition.get(), now)
            : ColumnsCheck.check(definition.get(), before, now);
    lastCheck = clock.instant();
    lastNanos = System.nanoTime();
  }
}
