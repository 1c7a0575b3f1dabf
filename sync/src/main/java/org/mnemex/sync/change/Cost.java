package org.mnemex.sync.change;

import java.util.Locale;

/** The cost of a change, in ascending order. */
public enum Cost {
  /** Takes effect with the next query; index files do not change. */
  AT_ONCE,
  /** A new edition, filled from the live edition's stored records. */
  FROM_STORED,
  /** A new edition, filled from the database. */
  FROM_DATABASE;

  /** The form in definitions and answers: {@code at once}, {@code from stored}, … */
  public String words() {
    return name().toLowerCase(Locale.ROOT).replace('_', ' ');
  }

  /** The higher of two costs. */
  public Cost or(Cost other) {
    return compareTo(other) >= 0 ? this : other;
  }
}
