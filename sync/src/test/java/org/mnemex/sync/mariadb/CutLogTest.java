package org.mnemex.sync.mariadb;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.junit.jupiter.api.Test;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;

/** A server that is killed while it writes leaves half an event at the end of a file of its log. */
class CutLogTest {
  private static final RecordShape SHAPE =
      new RecordShape("bed", List.of("id"), null, List.of(), Set.of());

  @Test
  void whatCameBeforeAndBehindHalfAnEventIsRead() throws Exception {
    try (MariadbServer server = MariadbServer.start(Files.createTempDirectory("mnemex-cut-log"))) {
      server.createDatabase("garden");
      run(server, "CREATE TABLE bed (id INT PRIMARY KEY, title TEXT)");
      MariadbSource source = new MariadbSource(definition(server));
      source.prepare(SHAPE.watchedColumns());
      Position start;
      try (Source.Capture capture = source.capture("cut")) {
        start = capture.now();
      }
      for (int i = 1; i <= 3; i++) {
        run(server, "INSERT INTO bed VALUES (%d, 'before')".formatted(i));
      }
      Path log = lastLog(server);
      server.kill();
      Files.write(log, halfAnEvent(Files.size(log)), StandardOpenOption.APPEND);
      server.startAgain();
      for (int i = 4; i <= 6; i++) {
        run(server, "INSERT INTO bed VALUES (%d, 'behind')".formatted(i));
      }
      Set<Object> seen = new TreeSet<>();
      try (Source.Capture capture = source.capture("cut")) {
        Position last = capture.last();
        for (Position at = start; !at.reaches(last); ) {
          Changes changes = capture.after(at, 100, Duration.ofSeconds(20));
          changes.list().forEach(change -> seen.add(change.columns().get("id")));
          at = changes.upTo();
        }
      }
      assertThat(seen.stream().map(String::valueOf))
          .containsExactlyInAnyOrder("1", "2", "3", "4", "5", "6");
    }
  }

  private static SourceDefinition.Server definition(MariadbServer server) {
    return new SourceDefinition.Server(
        "garden",
        SourceDefinition.Kind.MARIADB,
        "127.0.0.1",
        server.port(),
        "garden",
        "",
        server.user(),
        new Secret(server.password()),
        SourceDefinition.Following.PREPARING);
  }

  private static void run(MariadbServer server, String sql) throws Exception {
    try (Connection connection = server.connect("garden");
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  private static Path lastLog(MariadbServer server) throws Exception {
    try (Connection connection = server.connect("");
        Statement statement = connection.createStatement();
        ResultSet rows = statement.executeQuery("SELECT @@GLOBAL.log_bin_basename")) {
      rows.next();
      return Path.of(rows.getString(1) + ".000001");
    }
  }

  /** The header of an event that says that 200 bytes follow, and ten of these. */
  private static byte[] halfAnEvent(long at) {
    return ByteBuffer.allocate(29)
        .order(ByteOrder.LITTLE_ENDIAN)
        .putInt(1_790_000_000)
        .put((byte) 2)
        .putInt(1)
        .putInt(219)
        .putInt((int) at + 219)
        .array();
  }
}
