package org.mnemex.sync.edition;

import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Persists the list of editions. */
public interface EditionStore {
  /** The editions of an index, retired ones included, by number. */
  List<EditionEntry> of(String index);

  /**
   * Records new or changed editions in one transaction.
   *
   * @throws UncheckedIOException if the write fails, as on a full disk; nothing has changed then
   */
  default void save(EditionEntry... entries) {
    saveWith(() -> {}, entries);
  }

  /**
   * The same with another write in the same transaction: both or nothing.
   *
   * @throws UncheckedIOException if the write fails
   */
  void saveWith(Runnable also, EditionEntry... entries);

  /**
   * An edition.
   *
   * @param index the storage name of the index
   * @param number from 1, never reused
   * @param version current version of its definition
   * @param plan how it was started
   * @param until when a previous edition is removed; else null
   * @param filled the cost of filling; null while it is being filled
   */
  record EditionEntry(
      String index,
      int number,
      int version,
      State state,
      FillPlan plan,
      @Nullable Instant until,
      @Nullable Filled filled) {
    /** The same edition in another state. */
    public EditionEntry in(State other) {
      return new EditionEntry(index, number, version, other, plan, null, filled);
    }

    EditionEntry former(Instant end) {
      return new EditionEntry(index, number, version, State.FORMER, plan, end, filled);
    }

    EditionEntry at(int otherVersion) {
      return new EditionEntry(index, number, otherVersion, state, plan, until, filled);
    }

    EditionEntry filled(Filled what) {
      return new EditionEntry(index, number, version, state, plan, until, what);
    }
  }

  /**
   * How an edition is started.
   *
   * @param fromStored whether from the live edition's stored records instead of the database
   * @param hold whether it waits for approval when it is complete
   */
  record FillPlan(boolean fromStored, boolean hold) {
    /** From the database, and live when it is complete. */
    public static final FillPlan USUAL = new FillPlan(false, false);
  }

  /** The cost of filling. */
  record Filled(long records, long millis) {}

  /** The state of an edition. */
  enum State {
    /** Records are being written into it. */
    FILLING,
    /** Complete and fed, but waiting for approval. */
    READY,
    /** It answers. */
    LIVE,
    /** Replaced but still fed, so that it can be restored. */
    FORMER,
    /** Removed. */
    RETIRED
  }
}
