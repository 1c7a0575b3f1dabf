package org.mnemex.sync.source;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What is left of changes to joined rows that affect more records than are listed at a time.
 *
 * @param way which of the reader's ways from rows to records they go
 * @param values of the columns by which the rows are related to records, a list for each row
 * @param cause the first of the changes
 * @param after the records up to this key are listed; null for none
 */
public record FanOut(int way, List<List<Object>> values, Change cause, @Nullable RecordKey after) {
  public FanOut {
    values = List.copyOf(values);
  }

  /** Whether it lists the records of the same rows. */
  public boolean isLike(FanOut other) {
    return way == other.way && values.equals(other.values);
  }

  /** The same behind a key. */
  public FanOut behind(@Nullable RecordKey key) {
    return new FanOut(way, values, cause, key);
  }
}
