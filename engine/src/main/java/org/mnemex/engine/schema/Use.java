package org.mnemex.engine.schema;

import java.util.Locale;

/** A use of a field. */
public enum Use {
  SEARCH,
  FILTER,
  FACET,
  SORT,
  SHOW,
  SUGGEST,
  RANK;

  /** The name in definitions. */
  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }
}
