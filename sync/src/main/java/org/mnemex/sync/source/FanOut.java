package org.mnemex.sync.source;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The rest of changes to joined rows that affect more records than the limit.
 *
 * @param way the reader's way from the rows to their records
 * @param values values of the relating columns, a list for each row
 * @param cause the first of the changes
 * @param after records up to this key are listed; null for none
 */
public record FanOut(int way, List<List<Object>> values, Change cause, @Nullable RecordKey after) {
  public FanOut {
    values = List.copyOf(values);
  }

  /** Whether it lists the records of the same rows. */
  public boolean isLike(FanOut other) {
    return way == other.way && values.equals(other.values);
  }

  /** The rest after a key. */
  public FanOut restAfter(@Nullable RecordKey key) {
    return new FanOut(way, values, cause, key);
  }
}
