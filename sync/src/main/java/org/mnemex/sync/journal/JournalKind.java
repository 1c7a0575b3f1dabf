package org.mnemex.sync.journal;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What is special about a kind of server that has a journal. */
public interface JournalKind {
  /** Whether the journal's tables are there. */
  boolean exists(Connection connection) throws SQLException;

  /**
   * Waits until something may have been committed.
   *
   * @param most how long at most
   */
  void await(Connection connection, Duration most) throws SQLException, InterruptedException;

  /**
   * What tells later whether the transactions that are open now have ended.
   *
   * @see #isOver
   */
  long moment(Connection connection) throws SQLException;

  /**
   * Whether numbers that were missing at a moment will never come: their transactions were rolled
   * back.
   *
   * @param from the first number
   * @param to the last number
   */
  boolean isOver(Connection connection, long moment, long from, long to) throws SQLException;

  /** The table whose truncation a change of this name tells, or null if it is a row's change. */
  @Nullable String truncated(String tableName);

  /**
   * The values of a change in the form that queries give.
   *
   * @param columns as the trigger wrote them
   */
  Map<String, Object> values(Connection connection, String table, Map<String, Object> columns)
      throws SQLException;
}
