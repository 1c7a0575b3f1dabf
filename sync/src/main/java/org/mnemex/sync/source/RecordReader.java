package org.mnemex.sync.source;

import java.util.Collection;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Reads records of one shape, many at a time. Used by one thread. */
public interface RecordReader extends AutoCloseable {
  /** The records of these keys; what is not among the result does not exist (any more). */
  Records read(Collection<RecordKey> keys) throws SourceUnavailableException;

  /**
   * The records behind a key, in key order.
   *
   * @param after null for the first ones
   */
  Records readAfter(@Nullable RecordKey after, int limit) throws SourceUnavailableException;

  /**
   * The key of the last of some records behind a key, in key order.
   *
   * @param after null for the beginning
   * @return null if there are fewer records than that
   */
  @Nullable RecordKey skip(@Nullable RecordKey after, int records)
      throws SourceUnavailableException;

  /**
   * The records behind a key up to another, which is included, in key order.
   *
   * @param after null for the beginning
   * @param upTo null for the end
   */
  Records readBetween(@Nullable RecordKey after, @Nullable RecordKey upTo)
      throws SourceUnavailableException;

  /** How many records there are, about; 0 if that is not known without counting. */
  long estimate() throws SourceUnavailableException;

  /**
   * The records that some changes affect.
   *
   * @param limit of how many records to list at a time where joined rows belong to many
   */
  Affected affected(List<Change> changes, int limit) throws SourceUnavailableException;

  /** Goes on to list records where there were more of them. */
  Affected affected(FanOut more, int limit) throws SourceUnavailableException;

  /** The keys of all records that some changes affect, however many they are. */
  default Set<RecordKey> affected(List<Change> changes) throws SourceUnavailableException {
    return affected(changes, Integer.MAX_VALUE).causes().keySet();
  }

  /** Cuts its connection, whatever it is waiting for; may be called by any thread. */
  void abort();

  @Override
  void close();
}
