package org.mnemex.sync.feed;

import java.io.IOException;
import java.time.Clock;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Document;
import org.mnemex.sync.definition.IndexDefinition;

/**
 * Writes records to an edition or to quarantine. A record that can be mapped again leaves
 * quarantine.
 */
final class RecordWriter {
  private static final int MAX_QUARANTINED = 100_000;

  private final EditionFolder folder;
  private final Quarantine quarantine;
  private final int edition;
  private final Clock clock;
  private volatile IndexDefinition definition;

  /** Keys of records in quarantine, shared with searches. */
  private final Set<String> setAside = ConcurrentHashMap.newKeySet();

  RecordWriter(
      IndexDefinition definition,
      int edition,
      EditionFolder folder,
      Quarantine quarantine,
      Clock clock) {
    this.definition = definition;
    this.edition = edition;
    this.folder = folder;
    this.quarantine = quarantine;
    this.clock = clock;
    setAside.addAll(quarantine.keys(definition.keptAs(), edition));
  }

  /** Switches to another version of the definition. */
  void redefine(IndexDefinition other) {
    definition = other;
  }

  /** Whether a record is in quarantine. */
  boolean isSetAside(String key) {
    return setAside.contains(key);
  }

  /** How many records are in quarantine. */
  int setAside() {
    return setAside.size();
  }

  /**
   * Writes a document, unless it is equal to the visible one.
   *
   * @param visible the content hash of the visible one; null if there is none, or another may be
   *     pending
   */
  ChangeTrace.Outcome put(Document document, @Nullable Long visible) throws IOException {
    if (visible != null && visible == document.hash()) {
      release(document.key());
      return ChangeTrace.Outcome.UNCHANGED;
    }
    return write(document);
  }

  /**
   * Writes a document unconditionally. Documents of different keys may be written by several
   * threads.
   */
  ChangeTrace.Outcome write(Document document) throws IOException {
    release(document.key());
    folder.put(document);
    return ChangeTrace.Outcome.INDEXED;
  }

  /**
   * Puts a record into quarantine. Its previous document is removed, or marked as stale.
   *
   * @throws QuarantineFullException if the quarantine is full, which means that the definition is
   *     wrong
   */
  ChangeTrace.Outcome setAside(String key, String reason) {
    if (setAside.size() >= MAX_QUARANTINED && !setAside.contains(key)) {
      throw new QuarantineFullException(MAX_QUARANTINED, key, reason);
    }
    if (!definition.keepUnreadable()) {
      folder.delete(key);
    }
    quarantine.put(definition.keptAs(), edition, key, reason, clock.instant());
    setAside.add(key);
    return ChangeTrace.Outcome.QUARANTINED;
  }

  /** Removes a record that no longer exists. */
  ChangeTrace.Outcome remove(String key) {
    release(key);
    return folder.delete(key) ? ChangeTrace.Outcome.REMOVED : ChangeTrace.Outcome.UNCHANGED;
  }

  private void release(String key) {
    if (setAside.remove(key)) {
      quarantine.remove(definition.keptAs(), edition, key);
    }
  }
}
