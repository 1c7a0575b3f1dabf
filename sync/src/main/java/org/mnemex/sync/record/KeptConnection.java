package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * A connection that is opened when it is needed and kept. It is given up after an error, and when
 * what it leads to is no longer the source. Used by one thread; {@link #abort} by any.
 */
public final class KeptConnection implements AutoCloseable {
  private final SqlDatabase database;
  private final Work<?> opened;
  private final Runnable givenUp;
  private volatile @Nullable Connection connection;
  private @Nullable Object identity;

  /** Something to do with a connection. */
  @FunctionalInterface
  public interface Work<T extends @Nullable Object> {
    T on(Connection connection) throws SQLException, InterruptedException;
  }

  /**
   * A connection that is not open yet.
   *
   * @param opened done with each new connection
   * @param givenUp done after a connection is given up: what was learned through it may not hold
   *     for the next one
   */
  public KeptConnection(SqlDatabase database, Work<?> opened, Runnable givenUp) {
    this.database = database;
    this.opened = opened;
    this.givenUp = givenUp;
  }

  /**
   * Does something with the connection.
   *
   * @throws SourceUnavailableException if the database refuses it
   */
  public <T extends @Nullable Object> T use(Work<T> work) throws SourceUnavailableException {
    Object now = database.identity();
    if (connection != null && !now.equals(identity)) {
      close();
    }
    try {
      Connection open = connection;
      if (open == null) {
        open = database.connect();
        connection = open;
        identity = now;
        opened.on(open);
      }
      return work.on(open);
    } catch (SQLException e) {
      close();
      throw database.unavailable(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      close();
      throw new SourceUnavailableException("interrupted", e);
    } catch (RuntimeException e) {
      close();
      throw e;
    }
  }

  /** Cuts the connection, whatever it is waiting for. */
  public void abort() {
    SqlDatabase.abort(connection);
  }

  @Override
  public void close() {
    Connection open = connection;
    connection = null;
    givenUp.run();
    if (open != null) {
      try {
        open.close();
      } catch (SQLException e) {
        // It is given up because it is broken, or it has nothing to save.
        return;
      }
    }
  }
}
