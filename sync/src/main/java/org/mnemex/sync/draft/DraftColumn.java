package org.mnemex.sync.draft;

import org.jspecify.annotations.Nullable;

/**
 * A column that a draft makes a field of.
 *
 * @param type its type as the database writes it; empty if only its values tell
 * @param join name of the join that it belongs to, or null
 * @param many whether a record may have several values
 * @param lookup whether its table names what others refer to, such as sections or tags
 * @param isKey whether it is part of the key
 * @param note what the database says of it, or null
 */
record DraftColumn(
    String name,
    String type,
    ColumnSample sample,
    @Nullable String join,
    boolean many,
    boolean lookup,
    boolean isKey,
    @Nullable String note) {
  /** The same column with other samples. */
  DraftColumn with(ColumnSample sample) {
    return new DraftColumn(name, type, sample, join, many, lookup, isKey, note);
  }
}
