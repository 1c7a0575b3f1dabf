package org.mnemex.sync.source;

import java.util.Collection;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Reads records of one shape, many at a time. Used by one thread. */
public interface RecordReader extends AutoCloseable {
  /** The existing records among some keys. */
  Records read(Collection<RecordKey> keys) throws SourceUnavailableException;

  /**
   * The records after a key, in key order.
   *
   * @param after null for the first ones
   */
  Records readAfter(@Nullable RecordKey after, int limit) throws SourceUnavailableException;

  /**
   * The key of the n-th record after a key, in key order.
   *
   * @param after null for the start
   * @return null if there are fewer records
   */
  @Nullable RecordKey skip(@Nullable RecordKey after, int records)
      throws SourceUnavailableException;

  /**
   * The records after a key up to and including another, in key order.
   *
   * @param after null for the start
   * @param upTo null for the end
   */
  Records readBetween(@Nullable RecordKey after, @Nullable RecordKey upTo)
      throws SourceUnavailableException;

  /** The approximate number of records; 0 if unknown without counting. */
  long estimate() throws SourceUnavailableException;

  /**
   * The records that some changes affect.
   *
   * @param limit the maximum number of records to list for each fan-out
   */
  Affected affected(List<Change> changes, int limit) throws SourceUnavailableException;

  /** Continues a fan-out. */
  Affected affected(FanOut more, int limit) throws SourceUnavailableException;

  /** The keys of all records that some changes affect, however many. */
  default Set<RecordKey> affected(List<Change> changes) throws SourceUnavailableException {
    return affected(changes, Integer.MAX_VALUE).causes().keySet();
  }

  /** Aborts its connection. Thread-safe. */
  void abort();

  @Override
  void close();
}
