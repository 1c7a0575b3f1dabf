package org.mnemex.sync.feed;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.List;
import java.util.Objects;

/**
 * Shares work on many records among the processors. The caller waits for all of it, so that the
 * order of portions and batches stays the one in which the feed takes them.
 */
final class ManyRecords {
  /** Fewer records are worked on faster by one thread. */
  private static final int WORTH_SHARING = 32;

  private ManyRecords() {}

  /** Work on one record. */
  @FunctionalInterface
  interface Work<T> {
    void on(T record) throws IOException;
  }

  /**
   * Does some work on each record.
   *
   * @param records of different keys
   * @throws IOException the first of those that the work throws; part of it is done then
   */
  static <T> void each(List<T> records, Work<T> work) throws IOException {
    if (records.size() < WORTH_SHARING) {
      for (T record : records) {
        work.on(record);
      }
      return;
    }
    try {
      records.parallelStream().forEach(record -> unchecked(record, work));
    } catch (UncheckedIOException e) {
      throw Objects.requireNonNull(e.getCause());
    }
  }

  private static <T> void unchecked(T record, Work<T> work) {
    try {
      work.on(record);
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }
}
