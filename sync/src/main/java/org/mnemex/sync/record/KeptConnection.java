package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * A connection that is opened when needed and kept. It is discarded after an error, and when it no
 * longer leads to the source. Used by one thread, except {@link #abort}.
 */
public final class KeptConnection implements Connections {
  private final SqlDatabase database;
  private final Work<?> opened;
  private final Runnable givenUp;
  private volatile @Nullable Connection connection;
  private @Nullable Object identity;

  /**
   * A connection that is not open yet.
   *
   * @param opened runs with each new connection
   * @param givenUp runs after a connection is discarded: what was learned through it may not hold
   *     for the next one
   */
  public KeptConnection(SqlDatabase database, Work<?> opened, Runnable givenUp) {
    this.database = database;
    this.opened = opened;
    this.givenUp = givenUp;
  }

  @Override
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

  @Override
  public void abort() {
    SqlDatabase.abort(connection);
  }

  @Override
  public void close() {
    Connection open = connection;
    connection = null;
    givenUp.run();
    SqlDatabase.discard(open);
  }
}
