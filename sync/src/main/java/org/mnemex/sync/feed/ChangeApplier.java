package org.mnemex.sync.feed;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.mapping.UnmappableRecordException;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Updates the records that changes affect. Used by the feed's thread.
 *
 * <h2>Deferred work</h2>
 *
 * <p>A change to a joined row may affect hundreds of thousands of records. They are listed and read
 * in portions, and later changes are applied in between, so that a single change does not wait for
 * them. Documents are removed only after all available changes were examined, so that a transaction
 * that removes too many is held as a whole. While work is deferred, {@link #isSettled} is false:
 * the feed's position stays, and after a crash the work is repeated.
 */
final class ChangeApplier {
  private static final int KEYS_PER_READ = 500;

  /** The maximum of pending records; no further changes are accepted beyond it. */
  private static final int MAX_FAN_OUTS = 64;

  /** The maximum of deferred removals; beyond it they are done before all changes are examined. */
  private static final int MAX_REMOVALS = 200_000;

  private static final Duration LONGEST_REMOVALS = Duration.ofSeconds(10);

  private final Supplier<RecordReader> reader;
  private final EditionFolder folder;
  private final DocumentMapper mapper;
  private final RecordWriter writer;
  private final Fill fill;
  private final RemovalGuard guard;
  private final TraceLog traces;
  private final Clock clock;
  private final int portion;

  private final Deque<FanOut> fanOuts = new ArrayDeque<>();
  private final Map<RecordKey, Pending> removals = new LinkedHashMap<>();
  private Instant firstRemoval = Instant.EPOCH;
  private final List<Pending> written = new ArrayList<>();

  /**
   * @param reader the open reader of records
   * @param portion the number of records of a fan-out to update at a time
   */
  ChangeApplier(
      Supplier<RecordReader> reader,
      EditionFolder folder,
      DocumentMapper mapper,
      RecordWriter writer,
      Fill fill,
      RemovalGuard guard,
      TraceLog traces,
      Clock clock,
      int portion) {
    this.reader = reader;
    this.folder = folder;
    this.mapper = mapper;
    this.writer = writer;
    this.fill = fill;
    this.guard = guard;
    this.traces = traces;
    this.clock = clock;
    this.portion = portion;
  }

  /** Whether no work is deferred. */
  boolean isSettled() {
    return fanOuts.isEmpty() && removals.isEmpty();
  }

  /** Whether {@link #updateDeferred} has records to update. */
  boolean hasFanOuts() {
    return !fanOuts.isEmpty();
  }

  /** Whether too much is deferred to accept further changes. */
  boolean isFull() {
    return fanOuts.size() > MAX_FAN_OUTS;
  }

  /** Drops deferred work: all changes since the feed's position will come again. */
  void reset() {
    fanOuts.clear();
    removals.clear();
    written.clear();
  }

  /**
   * Applies changes.
   *
   * @param complete whether they are all available changes
   * @return how many records were examined
   * @throws RemovalsHeldException if their removals need approval
   */
  int apply(List<Change> changes, boolean complete) throws SourceUnavailableException, IOException {
    int records = 0;
    if (!changes.isEmpty()) {
      Affected affected = reader.get().affected(changes, portion);
      affected.more().forEach(this::defer);
      records = apply(affected.causes());
    }
    settle(complete);
    return records;
  }

  /** A pending fan-out starts again: its rows have changed since. */
  private void defer(FanOut more) {
    fanOuts.removeIf(more::isLike);
    fanOuts.add(more);
  }

  /**
   * Updates a portion of the deferred records.
   *
   * @return how many records were examined
   */
  int updateDeferred() throws SourceUnavailableException, IOException {
    FanOut first = fanOuts.peek();
    if (first == null) {
      return 0;
    }
    Affected affected = reader.get().affected(first, portion);
    int records = apply(affected.causes());
    fanOuts.remove();
    // Fan-outs take turns: none waits for all of another.
    fanOuts.addAll(affected.more());
    settle(fanOuts.isEmpty());
    return records;
  }

  /** Reads requested records again. */
  void readAgain(Collection<RecordKey> keys, Change cause)
      throws SourceUnavailableException, IOException {
    Map<RecordKey, Change> causes = new LinkedHashMap<>();
    keys.forEach(key -> causes.put(key, cause));
    apply(causes);
    settle(true);
  }

  private int apply(Map<RecordKey, Change> causes) throws SourceUnavailableException, IOException {
    Instant captured = clock.instant();
    List<Pending> pending = new ArrayList<>();
    causes.forEach((key, change) -> pending.add(new Pending(key, change, captured)));
    for (int at = 0; at < pending.size(); at += KEYS_PER_READ) {
      apply(pending.subList(at, Math.min(pending.size(), at + KEYS_PER_READ)));
    }
    return pending.size();
  }

  private void apply(List<Pending> pending) throws SourceUnavailableException, IOException {
    Records records = reader.get().read(pending.stream().map(p -> p.key).toList());
    Instant read = clock.instant();
    Map<RecordKey, AssembledRecord> found = new HashMap<>();
    records.found().forEach(record -> found.put(record.key(), record));
    Snapshot snapshot = folder.snapshot();
    boolean isLive = fill.isDone();
    ManyRecords.each(
        pending,
        one -> {
          map(one, found.get(one.key));
          // While it is filled, another document may be pending.
          one.visible = isLive ? snapshot.hash(one.key.text()) : null;
        });
    for (Pending one : pending) {
      one.read = read;
      String problem = one.problem == null ? records.unreadable().get(one.key) : one.problem;
      String key = one.key.text();
      removals.remove(one.key);
      if (problem != null) {
        one.outcome = writer.setAside(key, problem);
      } else if (one.document != null) {
        // By one thread: each that writes makes a segment of its own at the next refresh.
        one.outcome = writer.put(one.document, one.visible);
        one.document = null;
      } else if (one.visible != null) {
        firstRemoval = removals.isEmpty() ? read : firstRemoval;
        removals.put(one.key, one);
        continue;
      } else {
        // It has no visible document, so no approval is needed.
        one.outcome = writer.remove(key);
      }
      one.mapped = clock.instant();
      fill.changed(key);
      written.add(one);
    }
  }

  private void map(Pending one, @Nullable AssembledRecord found) {
    if (found != null) {
      try {
        one.document = mapper.map(found);
      } catch (UnmappableRecordException e) {
        one.problem = String.valueOf(e.getMessage());
      }
    }
  }

  /** Removes all documents that the changes remove, or none. */
  private void settle(boolean complete) {
    if (removals.isEmpty()
        || !complete
            && removals.size() < MAX_REMOVALS
            && clock.instant().isBefore(firstRemoval.plus(LONGEST_REMOVALS))) {
      return;
    }
    guard.remove(removals.size(), folder.snapshot().documents());
    for (Pending one : removals.values()) {
      one.outcome = writer.remove(one.key.text());
      one.mapped = clock.instant();
      written.add(one);
    }
    removals.clear();
  }

  /** Notes that written documents are visible from now on. */
  void visible() {
    Instant visible = clock.instant();
    traces.add(written.stream().map(done -> done.trace(visible)).toList());
    written.clear();
  }

  /** A record that changes affect. */
  private static final class Pending {
    final RecordKey key;
    final Change cause;
    final Instant captured;
    Instant read = Instant.EPOCH;
    Instant mapped = Instant.EPOCH;
    ChangeTrace.@Nullable Outcome outcome;
    @Nullable Document document;
    @Nullable Long visible;
    @Nullable String problem;

    Pending(RecordKey key, Change cause, Instant captured) {
      this.key = key;
      this.cause = cause;
      this.captured = captured;
    }

    ChangeTrace trace(Instant visible) {
      return new ChangeTrace(
          key.text(),
          cause.table(),
          outcome == null ? ChangeTrace.Outcome.UNCHANGED : outcome,
          cause.position(),
          cause.at(),
          captured,
          read,
          mapped,
          visible);
    }
  }
}
