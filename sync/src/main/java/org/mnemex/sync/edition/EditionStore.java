package org.mnemex.sync.edition;

import java.io.UncheckedIOException;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Where it is written down which editions there are. */
public interface EditionStore {
  /** The editions of an index, retired ones included, by number. */
  List<EditionEntry> of(String index);

  /**
   * Writes down new editions, or what became of known ones, in one transaction.
   *
   * @throws UncheckedIOException if that cannot be written, as on a full disk; nothing is then
   */
  default void save(EditionEntry... entries) {
    saveWith(() -> {}, entries);
  }

  /**
   * The same, and something else that is written down in the same transaction: both, or nothing.
   *
   * @throws UncheckedIOException if that cannot be written
   */
  void saveWith(Runnable also, EditionEntry... entries);

  /**
   * An edition.
   *
   * @param index the name under which the index is kept
   * @param number from 1, never used twice for an index
   * @param version version of the index definition that it has now
   * @param plan how it was begun
   * @param until when a former edition goes; else null
   * @param filled what filling it took; null while it is being filled
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
   * How an edition is begun.
   *
   * @param fromStored whether from the live edition's stored records instead of the database
   * @param hold whether it waits for approval when it is complete
   */
  record FillPlan(boolean fromStored, boolean hold) {
    /** From the database, and live when it is complete. */
    public static final FillPlan USUAL = new FillPlan(false, false);
  }

  /** What filling took. */
  record Filled(long records, long millis) {}

  /** Where an edition is in its life. */
  enum State {
    /** Records are being written into it. */
    FILLING,
    /** Complete and fed, waiting for approval. */
    READY,
    /** It answers. */
    LIVE,
    /** It answered before and is still fed, so that it may be restored. */
    FORMER,
    /** It is gone. */
    RETIRED
  }
}
