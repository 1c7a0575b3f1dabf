package org.mnemex.bench;

import com.github.shyiko.mysql.binlog.BinaryLogClient;
import com.github.shyiko.mysql.binlog.event.EventType;
import java.io.IOException;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;
import org.mnemex.garden.server.DatabaseServer;

/** Receives the binary log that the service follows as another replica, and counts commits. */
final class BareBinlogReader implements BenchDatabase.BareReader {
  private static final int CONNECT_MILLIS = 10_000;

  private final AtomicLong commits = new AtomicLong();
  private final BinaryLogClient client;

  BareBinlogReader(DatabaseServer server) throws SQLException {
    client = new BinaryLogClient("127.0.0.1", server.port(), server.user(), server.password());
    client.setServerId(7000);
    client.registerEventListener(
        event -> {
          if (event.getHeader().getEventType() == EventType.XID) {
            commits.incrementAndGet();
          }
        });
    try (Connection connection = server.connect("");
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SHOW MASTER STATUS")) {
      rows.next();
      client.setBinlogFilename(rows.getString("File"));
      client.setBinlogPosition(rows.getLong("Position"));
    }
  }

  @Override
  public void begin() {
    try {
      client.connect(CONNECT_MILLIS);
    } catch (IOException | TimeoutException e) {
      throw new IllegalStateException(e);
    }
  }

  @Override
  public long seen() {
    return commits.get();
  }

  @Override
  public void close() {
    try {
      client.disconnect();
    } catch (IOException e) {
      throw new IllegalStateException(e);
    }
  }
}
