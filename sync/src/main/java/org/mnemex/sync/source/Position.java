package org.mnemex.sync.source;

/**
 * A point in a source's history.
 *
 * @param history identifies what the number counts; positions of different histories cannot be
 *     compared
 * @param number grows with every change
 * @param mark what the source has at this number, to notice that an older copy was restored; empty
 *     if there is nothing
 */
public record Position(String history, long number, String mark) {
  /** A position without a mark. */
  public Position(String history, long number) {
    this(history, number, "");
  }

  /**
   * Whether this position includes another one.
   *
   * @param other a position of the same history, or without one
   */
  public boolean reaches(Position other) {
    return Long.compareUnsigned(number, other.number) >= 0
        && (other.history.isEmpty() || other.history.equals(history));
  }

  /** The position in the form for callers, without its mark. */
  public String told() {
    return history + ":" + number;
  }

  /** Reads what {@link #toString()} or {@link #told()} wrote. */
  public static Position parse(String text) {
    int colon = text.lastIndexOf(':');
    if (colon < 0) {
      throw new IllegalArgumentException("'" + text + "' is not a position");
    }
    int at = text.indexOf('@', colon);
    return new Position(
        text.substring(0, colon),
        Long.parseLong(text.substring(colon + 1, at < 0 ? text.length() : at)),
        at < 0 ? "" : text.substring(at + 1));
  }

  @Override
  public String toString() {
    return mark.isEmpty() ? told() : told() + "@" + mark;
  }
}
