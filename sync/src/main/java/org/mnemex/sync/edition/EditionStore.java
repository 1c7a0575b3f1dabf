package org.mnemex.sync.edition;

import java.util.List;

/** Where it is written down which editions there are. */
public interface EditionStore {
  /** The editions of an index that are not retired, by number. */
  List<EditionEntry> of(String index);

  /** Writes down a new edition, or another state of one. */
  void save(EditionEntry entry);

  /** Makes {@code promoted} the live edition and retires {@code retired}, in one transaction. */
  void promote(EditionEntry promoted, int retired);

  /**
   * An edition.
   *
   * @param number from 1, never used twice for an index
   * @param version version of the index definition that it is built from
   */
  record EditionEntry(String index, int number, int version, State state) {
    /** The same edition in another state. */
    public EditionEntry in(State other) {
      return new EditionEntry(index, number, version, other);
    }
  }

  /** Where an edition is in its life. */
  enum State {
    FILLING,
    LIVE,
    RETIRED
  }
}
