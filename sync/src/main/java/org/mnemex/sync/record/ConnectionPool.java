package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.NoSuchElementException;
import org.apache.commons.pool2.BasePooledObjectFactory;
import org.apache.commons.pool2.PooledObject;
import org.apache.commons.pool2.impl.DefaultPooledObject;
import org.apache.commons.pool2.impl.GenericObjectPool;
import org.apache.commons.pool2.impl.GenericObjectPoolConfig;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * The connections through which all indexes over a server read. They are opened when needed, up to
 * a limit, and closed after a while without use. Thread-safe.
 */
public final class ConnectionPool {
  private static final int LIMIT = 8;

  /** Longer than any statement may take. */
  private static final Duration LONGEST_WAIT = Duration.ofMinutes(3);

  private static final Duration IDLE = Duration.ofSeconds(10);

  /** One that has been used so lately is not asked whether it works. */
  private static final Duration FRESH = Duration.ofMillis(500);

  private static final int VALID_SECONDS = 5;

  private final SqlDatabase database;
  private final GenericObjectPool<Connection> pool;

  /** A pool without connections yet. */
  public ConnectionPool(SqlDatabase database) {
    this.database = database;
    GenericObjectPoolConfig<Connection> config = new GenericObjectPoolConfig<>();
    config.setMaxTotal(LIMIT);
    config.setMaxIdle(LIMIT);
    config.setMaxWait(LONGEST_WAIT);
    config.setMinEvictableIdleDuration(IDLE);
    config.setTimeBetweenEvictionRuns(IDLE);
    config.setNumTestsPerEvictionRun(LIMIT);
    config.setTestOnBorrow(true);
    config.setJmxEnabled(false);
    this.pool = new GenericObjectPool<>(new Opening(), config);
  }

  private final class Opening extends BasePooledObjectFactory<Connection> {
    @Override
    public Connection create() throws SourceUnavailableException {
      return database.connect();
    }

    @Override
    public PooledObject<Connection> wrap(Connection connection) {
      return new DefaultPooledObject<>(connection);
    }

    /**
     * A database that has been restarted has closed its connections, and nobody has noticed yet.
     */
    @Override
    public boolean validateObject(PooledObject<Connection> connection) {
      try {
        Connection one = connection.getObject();
        return !one.isClosed()
            && (connection.getIdleDuration().compareTo(FRESH) < 0 || one.isValid(VALID_SECONDS));
      } catch (SQLException e) {
        return false;
      }
    }

    @Override
    public void destroyObject(PooledObject<Connection> connection) throws SQLException {
      connection.getObject().close();
    }
  }

  /**
   * A way to use its connections.
   *
   * @param givenUp as for {@link SqlDatabase#connections}
   */
  public Connections lent(Runnable givenUp) {
    return new LentConnections(this, givenUp);
  }

  /** Lends a connection, to be given back or discarded. */
  Connection lend() throws SourceUnavailableException {
    try {
      return pool.borrowObject();
    } catch (SourceUnavailableException | RuntimeException e) {
      if (e instanceof NoSuchElementException) {
        throw database.unavailable(
            new SQLException(
                "all %d connections have been in use for %d minutes"
                    .formatted(LIMIT, LONGEST_WAIT.toMinutes())));
      }
      throw e;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new SourceUnavailableException("interrupted", e);
    } catch (Exception e) {
      throw new IllegalStateException(e);
    }
  }

  /** Takes a connection back that works. */
  void giveBack(Connection connection) {
    pool.returnObject(connection);
  }

  /** Closes a connection, and the idle ones: what has happened to it may have to them. */
  void discard(Connection connection) {
    pool.clear();
    try {
      pool.invalidateObject(connection);
    } catch (Exception e) {
      // The connection is being discarded anyway.
      return;
    }
  }

  SourceUnavailableException unavailable(SQLException cause) {
    return database.unavailable(cause);
  }
}
