package org.mnemex.sync.source;

/**
 * A point in a source's history.
 *
 * @param history what the number counts in; positions of different histories cannot be compared
 * @param number grows with every change
 */
public record Position(String history, long number) {
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
