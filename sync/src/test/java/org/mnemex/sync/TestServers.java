package org.mnemex.sync;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.server.PostgresServer;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;

/** One server of each kind for all tests of a run; every test makes a database of its own. */
public final class TestServers {
  private static final AtomicInteger DATABASES = new AtomicInteger();
  private static @Nullable PostgresServer postgres;

  private TestServers() {}

  /** The PostgreSQL server, started when it is first asked for. */
  public static synchronized PostgresServer postgres() throws IOException {
    if (postgres == null) {
      PostgresServer started = PostgresServer.start(Files.createTempDirectory("mnemex-pg"));
      postgres = started;
      Runtime.getRuntime().addShutdownHook(new Thread(() -> close(started)));
    }
    return postgres;
  }

  /** A connection to a database of {@link #newPostgres}. */
  public static Connection postgresAt(SourceDefinition.Server definition) throws SQLException {
    try {
      return postgres().connect(definition.database());
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private static void close(AutoCloseable server) {
    try {
      server.close();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    } catch (Exception e) {
      throw new IllegalStateException(e);
    }
  }

  /** The definition of a new, empty database. */
  public static SourceDefinition.Server newPostgres() throws IOException, SQLException {
    PostgresServer server = postgres();
    String name = "test " + DATABASES.incrementAndGet();
    server.createDatabase(name);
    return new SourceDefinition.Server(
        name.toLowerCase(java.util.Locale.ROOT).replace(' ', '-'),
        SourceDefinition.Kind.POSTGRES,
        "127.0.0.1",
        server.port(),
        name,
        "public",
        PostgresServer.USER,
        new Secret(PostgresServer.PASSWORD),
        true);
  }
}
