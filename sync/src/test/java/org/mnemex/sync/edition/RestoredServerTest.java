package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;
import org.mnemex.sync.Plants;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Source;

/**
 * A server is restored from an older copy, together with its log. The log then grows past the
 * position of the feed, which must still notice.
 */
class RestoredServerTest {
  @TempDir private Path indexes;

  @Test
  void anOlderCopyOfPostgresIsNoticed() throws Exception {
    Path folder = emptyFolder();
    try (PostgresServer server = PostgresServer.start(folder)) {
      server.createDatabase("garden");
      noticed(
          server,
          folder.resolve("data"),
          new PostgresSource(definition(server, SourceDefinition.Kind.POSTGRES, "public")));
    }
  }

  @Test
  void anOlderCopyOfMariadbIsNoticed() throws Exception {
    Path folder = emptyFolder();
    try (MariadbServer server = MariadbServer.start(folder)) {
      server.createDatabase("garden");
      noticed(
          server,
          folder.resolve("data"),
          new MariadbSource(definition(server, SourceDefinition.Kind.MARIADB, "")));
    }
  }

  private static Path emptyFolder() throws IOException {
    // Not the test's own, whose parents the servers' users may not enter.
    return Files.createTempDirectory("mnemex-restored");
  }

  private static SourceDefinition.Server definition(
      DatabaseServer server, SourceDefinition.Kind kind, String schema) {
    return new SourceDefinition.Server(
        "garden",
        kind,
        "127.0.0.1",
        server.port(),
        "garden",
        schema,
        server.user(),
        new Secret(server.password()),
        SourceDefinition.Following.PREPARING);
  }

  private void noticed(DatabaseServer server, Path data, Source source) throws Exception {
    run(server, "CREATE TABLE plant (id INT PRIMARY KEY, name VARCHAR(50))");
    insert(server, 1, 20);
    try (Follower follower = Follower.start(Plants.DEFINITION, source, indexes)) {
      insert(server, 21, 25);
      follower.awaitTrue();
      server.stop();
      copy(data, Path.of(data + "-copy"));
      server.startAgain();
      follower.awaitTrue();

      // What is as it was is followed on, whether the server or the service was stopped.
      insert(server, 31, 33);
      follower.awaitTrue();
      follower.stop();
      server.kill();
      server.startAgain();
      run(server, "CREATE TABLE other (id INT PRIMARY KEY, name VARCHAR(50))");
      follower.restart();
      follower.awaitTruth(1);
      insert(server, 34, 36);
      follower.awaitTruth(1);
      follower.stop();

      server.stop();
      copy(Path.of(data + "-copy"), data);
      server.startAgain();
      // Of the same size and number as those that were lost, and more.
      insert(server, 41, 43);
      run(server, "CREATE TABLE other (id INT PRIMARY KEY, name VARCHAR(50))");
      insert(server, 44, 60);
      follower.restart();
      follower.awaitTruth(2);
      insert(server, 61, 62);
      follower.awaitTruth(2);
    }
  }

  private static void insert(DatabaseServer server, int from, int to) throws SQLException {
    for (int id = from; id <= to; id++) {
      run(server, "INSERT INTO plant VALUES (%d, 'fern %d')".formatted(id, id));
    }
  }

  private static void run(DatabaseServer server, String sql) throws SQLException {
    try (Connection connection = server.connect("garden");
        Statement statement = connection.createStatement()) {
      statement.execute(sql);
    }
  }

  /** Owners and times are copied, too, as a backup does. */
  private static void copy(Path from, Path to) throws Exception {
    for (List<String> command :
        List.of(
            List.of("rm", "-rf", to.toString()),
            List.of("cp", "-a", from.toString(), to.toString()))) {
      Process process = new ProcessBuilder(command).inheritIO().start();
      assertThat(process.waitFor(Duration.ofMinutes(1))).isTrue();
      assertThat(process.exitValue()).isZero();
    }
  }
}
