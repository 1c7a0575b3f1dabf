package org.mnemex.sync;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;
import org.mnemex.sync.definition.Secret;
import org.mnemex.sync.definition.SourceDefinition;

/** One server of each kind for all tests of a run; every test makes a database of its own. */
public final class TestServers {
  private static final AtomicInteger DATABASES = new AtomicInteger();
  private static @Nullable PostgresServer postgres;
  private static @Nullable MariadbServer mariadb;

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

  /** The MariaDB server, started when it is first asked for. */
  public static synchronized MariadbServer mariadb() throws IOException {
    if (mariadb == null) {
      MariadbServer started = MariadbServer.start(Files.createTempDirectory("mnemex-mariadb"));
      mariadb = started;
      Runtime.getRuntime().addShutdownHook(new Thread(() -> close(started)));
    }
    return mariadb;
  }

  /** A connection to a database of {@link #newPostgres} or {@link #newMariadb}. */
  public static Connection connect(SourceDefinition.Server definition) throws SQLException {
    try {
      return definition.kind() == SourceDefinition.Kind.POSTGRES
          ? postgres().connect(definition.database())
          : mariadb().connect(definition.database());
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

  /** The definition of a new, empty database on the PostgreSQL server. */
  public static SourceDefinition.Server newPostgres() throws IOException, SQLException {
    return create(postgres(), SourceDefinition.Kind.POSTGRES, "public");
  }

  /** The definition of a new, empty database on the MariaDB server. */
  public static SourceDefinition.Server newMariadb() throws IOException, SQLException {
    return create(mariadb(), SourceDefinition.Kind.MARIADB, "");
  }

  private static SourceDefinition.Server create(
      DatabaseServer server, SourceDefinition.Kind kind, String schema) throws SQLException {
    String name = "test " + DATABASES.incrementAndGet();
    server.createDatabase(name);
    return new SourceDefinition.Server(
        name.replace(' ', '-'),
        kind,
        "127.0.0.1",
        server.port(),
        name,
        schema,
        server.user(),
        new Secret(server.password()),
        SourceDefinition.Following.PREPARING);
  }
}
