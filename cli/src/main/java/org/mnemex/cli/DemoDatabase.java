package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.Map;
import java.util.function.Consumer;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;

/** Where the demo's garden is. */
interface DemoDatabase extends AutoCloseable {
  long SEED = 1759;

  /** What {@code --on} may say. */
  enum Kind {
    sqlite,
    postgres,
    mariadb
  }

  /** The folder for the service's files. */
  Path folder();

  /** Environment variables that the definitions need. */
  Map<String, String> environment();

  /** Definition files in place of those of the example, by name. */
  Map<String, String> definitions() throws IOException;

  /** The beginning of a command line that runs an SQL statement. */
  String shell();

  /** What becomes of it when the demo ends. */
  String afterwards();

  Connection connect() throws SQLException;

  @Override
  void close();

  /**
   * Opens the garden, or makes it.
   *
   * @param say takes what is worth telling
   */
  static DemoDatabase open(Kind kind, int accessions, Consumer<String> say)
      throws IOException, SQLException {
    return switch (kind) {
      case sqlite -> openSqlite(accessions, say);
      case postgres -> {
        if (!PostgresServer.isInstalled()) {
          throw new IOException("PostgreSQL is not installed; run: apt-get install postgresql");
        }
        say.accept("Starting a private PostgreSQL server …");
        yield onServer(
            PostgresServer.start(Files.createTempDirectory("mnemex-postgres")),
            "postgres",
            accessions,
            say);
      }
      case mariadb -> {
        if (!MariadbServer.isInstalled()) {
          throw new IOException("MariaDB is not installed; run: apt-get install mariadb-server");
        }
        say.accept("Starting a private MariaDB server …");
        yield onServer(
            MariadbServer.start(Files.createTempDirectory("mnemex-mariadb")),
            "mariadb",
            accessions,
            say);
      }
    };
  }

  /** The folder of examples. */
  static Path examples() {
    String home = System.getenv("MNEMEX_HOME");
    return Path.of(home == null ? "." : home, "examples");
  }

  private static DemoDatabase openSqlite(int accessions, Consumer<String> say)
      throws IOException, SQLException {
    Path file = Path.of("mnemex-data", "garden.db");
    if (Files.exists(file)) {
      say.accept("The garden exists already: " + file);
    } else {
      say.accept("Creating Quillmere Botanic Garden with %,d accessions …".formatted(accessions));
      Garden.create(file, accessions, SEED);
    }
    return new InSqlite(file);
  }

  private static DemoDatabase onServer(
      DatabaseServer server, String kind, int accessions, Consumer<String> say)
      throws IOException, SQLException {
    say.accept("Creating Quillmere Botanic Garden with %,d accessions …".formatted(accessions));
    server.createGarden("garden", accessions, SEED);
    return new OnServer(server, kind);
  }

  /** A file beside the service's. */
  record InSqlite(Path file) implements DemoDatabase {
    @Override
    public Path folder() {
      return file.resolveSibling("");
    }

    @Override
    public Map<String, String> environment() {
      return Map.of();
    }

    @Override
    public Map<String, String> definitions() {
      return Map.of();
    }

    @Override
    public String shell() {
      return "sqlite3 " + file;
    }

    @Override
    public String afterwards() {
      return "the same command continues with it.";
    }

    @Override
    public Connection connect() throws SQLException {
      return DriverManager.getConnection(Garden.url(file));
    }

    @Override
    public void close() {
      // The file stays.
    }
  }

  /** A server that is gone when the demo ends, with its garden. */
  record OnServer(DatabaseServer server, String kind) implements DemoDatabase {
    @Override
    public Path folder() {
      return Path.of("mnemex-data-" + kind);
    }

    @Override
    public Map<String, String> environment() {
      return server.environment();
    }

    @Override
    public Map<String, String> definitions() throws IOException {
      Path file = examples().resolve("garden-on-" + kind).resolve("source.yaml");
      return Map.of("source.yaml", Files.readString(file));
    }

    @Override
    public String shell() {
      return server.shell("garden");
    }

    @Override
    public String afterwards() {
      return "the server goes with it.";
    }

    @Override
    public Connection connect() throws SQLException {
      return server.connect("garden");
    }

    @Override
    public void close() {
      try {
        server.close();
      } catch (IOException e) {
        System.err.println("the demo's database server could not be stopped: " + e.getMessage());
      }
    }
  }
}
