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
import org.mnemex.engine.read.Snapshot;
import org.mnemex.sync.mapping.DocumentMapper;
import org.mnemex.sync.source.Affected;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Change;
import org.mnemex.sync.source.FanOut;
import org.mnemex.sync.source.RecordKey;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Records;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * Brings the records up to date that changes affect. Of the feed's thread.
 *
 * <h2>What is put off</h2>
 *
 * <p>A change to a joined row may affect hundreds of thousands of records. They are listed and read
 * a portion at a time, and between two portions later changes are applied, so that a single change
 * does not wait for them. And documents are removed only when all changes that are there were
 * looked at, so that a transaction that removes too many is held whole. While anything is put off,
 * {@link #isSettled} says no: the feed's position stays where it was, and after a crash all of it
 * is done again.
 */
final class ChangeApplier {
  private static final int KEYS_PER_READ = 500;

  /** With more of them waiting, no further changes are taken. */
  private static final int MAX_FAN_OUTS = 64;

  /** Removals that are put off; more are done before all changes are looked at. */
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
   * @param portion of how many records of a fan-out to bring up to date at a time
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

  /** Whether nothing is put off. */
  boolean isSettled() {
    return fanOuts.isEmpty() && removals.isEmpty();
  }

  /** Whether there are records that {@link #goOn} would bring up to date. */
  boolean hasFanOuts() {
    return !fanOuts.isEmpty();
  }

  /** Whether so much is put off that no further changes should be taken. */
  boolean isFull() {
    return fanOuts.size() > MAX_FAN_OUTS;
  }

  /** Forgets what is put off: all changes since the feed's position will come again. */
  void reset() {
    fanOuts.clear();
    removals.clear();
    written.clear();
  }

  /**
   * Applies changes.
   *
   * @param complete whether they are all that there are now
   * @return how many records were looked at
   * @throws RemovalsHeldException if a person has to agree to what they would remove
   */
  int apply(List<Change> changes, boolean complete) throws SourceUnavailableException, IOException {
    int records = 0;
    if (!changes.isEmpty()) {
      Affected affected = reader.get().affected(changes, portion);
      affected.more().forEach(this::putOff);
      records = apply(affected.causes());
    }
    settle(complete);
    return records;
  }

  /** A fan-out that waits already begins again: its rows have changed since. */
  private void putOff(FanOut more) {
    fanOuts.removeIf(more::isLike);
    fanOuts.add(more);
  }

  /**
   * Brings a portion of the records up to date that were put off.
   *
   * @return how many records were looked at
   */
  int goOn() throws SourceUnavailableException, IOException {
    FanOut first = fanOuts.peek();
    if (first == null) {
      return 0;
    }
    Affected affected = reader.get().affected(first, portion);
    int records = apply(affected.causes());
    fanOuts.remove();
    // The next one has its turn: none waits for all of another.
    fanOuts.addAll(affected.more());
    settle(fanOuts.isEmpty());
    return records;
  }

  /** Reads records again that somebody asked for. */
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
    Map<RecordKey, DocumentMapper.Mapping> mapped = mapper.mapAll(found.values());
    for (Pending one : pending) {
      one.read = read;
      DocumentMapper.Mapping mapping = mapped.get(one.key);
      String unreadable = records.unreadable().get(one.key);
      String key = one.key.text();
      removals.remove(one.key);
      if (mapping != null) {
        one.outcome = writer.put(key, mapping, !fill.isDone());
      } else if (unreadable != null) {
        one.outcome = writer.setAside(key, unreadable);
      } else if (fill.isDone() && snapshot.hash(key) != null) {
        firstRemoval = removals.isEmpty() ? read : firstRemoval;
        removals.put(one.key, one);
        continue;
      } else {
        // Nobody sees a document of it, so nobody has to agree.
        one.outcome = writer.remove(key);
      }
      one.mapped = clock.instant();
      fill.changed(key);
      written.add(one);
    }
  }

  /** Removes documents, all that the changes ask for or none. */
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

  /** Notes that what was written is visible from now on. */
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
