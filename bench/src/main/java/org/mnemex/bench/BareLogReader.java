package org.mnemex.bench;

import java.nio.ByteBuffer;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Properties;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.server.DatabaseServer;
import org.postgresql.PGConnection;
import org.postgresql.PGProperty;
import org.postgresql.replication.PGReplicationStream;

/** Receives the log that the service follows through a slot of its own, and counts commits. */
final class BareLogReader implements BenchDatabase.BareReader {
  private static final String SLOT = "bench_bare";

  private final AtomicLong commits = new AtomicLong();
  private final Connection connection;
  private @Nullable Thread thread;
  private volatile boolean stopping;

  BareLogReader(DatabaseServer server) throws SQLException {
    Properties properties = new Properties();
    PGProperty.USER.set(properties, server.user());
    PGProperty.PASSWORD.set(properties, server.password());
    PGProperty.REPLICATION.set(properties, "database");
    PGProperty.PREFER_QUERY_MODE.set(properties, "simple");
    PGProperty.ASSUME_MIN_SERVER_VERSION.set(properties, "12");
    connection =
        DriverManager.getConnection(
            "jdbc:postgresql://127.0.0.1:%d/garden".formatted(server.port()), properties);
    try (Statement statement = connection.createStatement()) {
      statement.execute("CREATE_REPLICATION_SLOT " + SLOT + " TEMPORARY LOGICAL pgoutput");
    }
  }

  @Override
  public void begin() {
    thread = Thread.ofPlatform().daemon().start(this::follow);
  }

  private void follow() {
    try (connection;
        PGReplicationStream stream =
            connection
                .unwrap(PGConnection.class)
                .getReplicationAPI()
                .replicationStream()
                .logical()
                .withSlotName(SLOT)
                .withSlotOption("proto_version", 1)
                .withSlotOption("publication_names", "mnemex_garden")
                .start()) {
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
    Thread running = thread;
    if (running != null) {
      running.join();
    }
  }
}
