package org.mnemex.sync.source;

/**
 * A point in a source's history.
 *
 * @param history what the number counts in; positions of different histories cannot be compared
 * @param number grows with every change
 */
public record Position(String history, long number) {
  /**
   * Whether whoever is here has everything up to another position.
   *
   * @param other of the same history, or of none, as a database may tell it
   */
  public boolean reaches(Position other) {
    return Long.compareUnsigned(number, other.number) >= 0
        && (other.history.isEmpty() || other.history.equals(history));
  }

  /** Reads what {@link #toString()} wrote. */
  public static Position parse(String text) {
    int colon = text.lastIndexOf(':');
    if (colon < 0) {
      throw new IllegalArgumentException("'" + text + "' is no position");
    }
    return new Position(text.substring(0, colon), Long.parseLong(text.substring(colon + 1)));
  }

  @Override
  public String toString() {
    return history + ":" + number;
  }
}
