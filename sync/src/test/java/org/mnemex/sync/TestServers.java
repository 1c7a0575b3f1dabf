package org.mnemex.sync;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
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

  /** A new, empty database on the MariaDB server, in which a journal may be made. */
  public static SourceDefinition.Server newMariadbWithJournal() throws IOException, SQLException {
    SourceDefinition.Server definition = newMariadb();
    allowJournal(definition);
    return definition;
  }

  /** What an administrator of the MariaDB server has to allow for a journal. */
  public static void allowJournal(SourceDefinition.Server definition)
      throws IOException, SQLException {
    try (Connection connection = mariadb().connect("");
        Statement statement = connection.createStatement()) {
      statement.execute("SET GLOBAL log_bin_trust_function_creators = 1");
      statement.execute(
          "GRANT SELECT, INSERT, UPDATE, DELETE, CREATE, DROP, TRIGGER ON \"%s\".* TO '%s'@'%%'"
              .formatted(definition.database(), definition.user()));
    }
  }

  /** The same PostgreSQL database, as somebody who may do nothing there. */
  public static SourceDefinition.Server asPoorUser(SourceDefinition.Server server)
      throws SQLException {
    try (Connection connection = connect(server);
        Statement statement = connection.createStatement()) {
      // Roles belong to the server, what they may do to each database.
      statement.execute(
          """
          DO $$ BEGIN
            CREATE ROLE poor LOGIN PASSWORD 'poor';
          EXCEPTION WHEN duplicate_object OR unique_violation THEN
            NULL;
          END $$""");
    }
    return as(server, server.schema(), "poor", new Secret("poor"));
  }

  /** The same PostgreSQL database, with the tables of another schema. */
  public static SourceDefinition.Server inSchema(SourceDefinition.Server server, String schema) {
    return as(server, schema, server.user(), server.password());
  }

  private static SourceDefinition.Server as(
      SourceDefinition.Server server, String schema, String user, Secret password) {
    return new SourceDefinition.Server(
        server.name(),
        server.kind(),
        server.host(),
        server.port(),
        server.database(),
        schema,
        user,
        password,
        server.following());
  }

  /** The same database, followed in another way. */
  public static SourceDefinition.Server followed(
      SourceDefinition.Server server, SourceDefinition.Capture capture) {
    return new SourceDefinition.Server(
        server.name(),
        server.kind(),
        server.host(),
        server.port(),
        server.database(),
        server.schema(),
        server.user(),
        server.password(),
        new SourceDefinition.Following(true, 0, capture));
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
