package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.SourceUnavailableException;

/** A way to work with connections to a database. Used by one thread, except {@link #abort}. */
public interface Connections extends AutoCloseable {
  /** Work with a connection. */
  @FunctionalInterface
  interface Work<T extends @Nullable Object> {
    T on(Connection connection) throws SQLException, InterruptedException;
  }

  /**
   * Runs work with a connection.
   *
   * @throws SourceUnavailableException if the database refuses it
   */
  <T extends @Nullable Object> T use(Work<T> work) throws SourceUnavailableException;

  /** Aborts the connection that is in use. Thread-safe. */
  void abort();

  @Override
  void close();
}
