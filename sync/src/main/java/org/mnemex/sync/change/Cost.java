package org.mnemex.sync.change;

import java.util.Locale;

/** What it takes to make a change true, from the least to the most. */
public enum Cost {
  /** The next query has it; the index files stay as they are. */
  AT_ONCE,
  /** A new edition, filled from the records that the live one has stored. */
  FROM_STORED,
  /** A new edition, filled from the database. */
  FROM_DATABASE;

  /** As definitions and answers write it: {@code at once}, {@code from stored}, … */
  public String words() {
    return name().toLowerCase(Locale.ROOT).replace('_', ' ');
  }

  /** The greater of two. */
  public Cost or(Cost other) {
    return compareTo(other) >= 0 ? this : other;
  }
}
