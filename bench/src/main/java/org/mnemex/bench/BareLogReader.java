package org.mnemex.bench;

import java.nio.ByteBuffer;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Properties;
import java.util.concurrent.atomic.AtomicLong;
import org.mnemex.garden.server.DatabaseServer;
import org.postgresql.PGConnection;
import org.postgresql.PGProperty;
import org.postgresql.replication.PGReplicationStream;

/** Receives the log that the service follows through a slot of its own, and counts commits. */
final class BareLogReader implements BenchDatabase.BareReader {
  private static final String SLOT = "bench_bare";

  private final AtomicLong commits = new AtomicLong();
  private final Thread thread;
  private volatile boolean stopping;

  BareLogReader(DatabaseServer server) throws SQLException {
    Properties properties = new Properties();
    PGProperty.USER.set(properties, server.user());
    PGProperty.PASSWORD.set(properties, server.password());
    PGProperty.REPLICATION.set(properties, "database");
    PGProperty.PREFER_QUERY_MODE.set(properties, "simple");
    PGProperty.ASSUME_MIN_SERVER_VERSION.set(properties, "12");
    Connection connection =
        DriverManager.getConnection(
            "jdbc:postgresql://127.0.0.1:%d/garden".formatted(server.port()), properties);
    try (Statement statement = connection.createStatement()) {
      statement.execute("CREATE_REPLICATION_SLOT " + SLOT + " TEMPORARY LOGICAL pgoutput");
    }
    PGReplicationStream stream =
        connection
            .unwrap(PGConnection.class)
            .getReplicationAPI()
            .replicationStream()
            .logical()
            .withSlotName(SLOT)
            .withSlotOption("proto_version", 1)
            .withSlotOption("publication_names", "mnemex_garden")
            .start();
    thread = Thread.ofPlatform().daemon().start(() -> follow(connection, stream));
  }

  private void follow(Connection connection, PGReplicationStream stream) {
    try (connection;
        stream) {
      while (!stopping) {
        ByteBuffer message = stream.readPending();
        if (message == null) {
          Thread.onSpinWait();
        } else if (message.get() == 'C') {
          commits.incrementAndGet();
        }
      }
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  @Override
  public long seen() {
    return commits.get();
  }

  @Override
  public void close() throws InterruptedException {
    stopping = true;
    thread.join();
  }
}
