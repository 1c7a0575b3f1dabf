package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.SourceUnavailableException;

/** Connections that are lent by a pool for one piece of work at a time. */
final class LentConnections implements Connections {
  private final ConnectionPool pool;
  private final Runnable givenUp;
  private volatile @Nullable Connection current;

  /**
   * Connections of a pool.
   *
   * @param givenUp runs after work has failed: what was learned may not hold any more
   */
  LentConnections(ConnectionPool pool, Runnable givenUp) {
    this.pool = pool;
    this.givenUp = givenUp;
  }

  @Override
  public <T extends @Nullable Object> T use(Work<T> work) throws SourceUnavailableException {
    Connection lent = pool.lend();
    current = lent;
    boolean done = false;
    try {
      T result = work.on(lent);
      done = true;
      return result;
    } catch (SQLException e) {
      throw pool.unavailable(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new SourceUnavailableException("interrupted", e);
    } finally {
      current = null;
      if (done) {
        pool.giveBack(lent);
      } else {
        givenUp.run();
        pool.discard(lent);
      }
    }
  }

  @Override
  public void abort() {
    SqlDatabase.abort(current);
  }

  @Override
  public void close() {
    givenUp.run();
  }
}
