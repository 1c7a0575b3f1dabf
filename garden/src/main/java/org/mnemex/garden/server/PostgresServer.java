package org.mnemex.garden.server;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.mnemex.garden.Garden;

/** A private PostgreSQL server whose log can be followed. */
public final class PostgresServer implements DatabaseServer {
  private static final String USER = "postgres";
  private static final String PASSWORD = "quillmere";

  private static final Path INSTALLED = Path.of("/usr/lib/postgresql");

  private final Path bin;
  private final Path folder;
  private final int port;

  private PostgresServer(Path bin, Path folder, int port) {
    this.bin = bin;
    this.folder = folder;
    this.port = port;
  }

  /** Whether Debian's package is installed. */
  public static boolean isInstalled() {
    return Files.isDirectory(INSTALLED);
  }

  /**
   * Makes a server in an empty folder and starts it.
   *
   * @throws IOException with what the tools said, if that fails
   */
  public static PostgresServer start(Path folder) throws IOException {
    PostgresServer server = new PostgresServer(newest(), folder, Processes.freePort());
    Path password = folder.resolve("password");
    Files.writeString(password, PASSWORD);
    Processes.give(folder, USER);
    server.run(
        "initdb",
        "-D",
        server.data(),
        "-U",
        USER,
        "-A",
        "scram-sha-256",
        "--pwfile=" + password,
        "-E",
        "UTF8",
        "--locale=C.UTF-8",
        "--no-sync");
    Files.writeString(
        Path.of(server.data(), "postgresql.auto.conf"),
        """
        listen_addresses = '127.0.0.1'
        port = %d
        unix_socket_directories = '%s'
        max_connections = 300
        wal_level = logical
        max_replication_slots = 20
        max_wal_senders = 20
        fsync = off
        """
            .formatted(server.port, folder));
    Processes.give(folder, USER);
    server.startAgain();
    return server;
  }

  private static Path newest() throws IOException {
    try (Stream<Path> versions = Files.list(INSTALLED)) {
      return versions
          .max(Comparator.comparingInt(path -> Integer.parseInt(path.getFileName().toString())))
          .orElseThrow(() -> new IOException("no PostgreSQL in " + INSTALLED))
          .resolve("bin");
    }
  }

  private String data() {
    return folder.resolve("data").toString();
  }

  @Override
  public int port() {
    return port;
  }

  @Override
  public String user() {
    return USER;
  }

  @Override
  public String password() {
    return PASSWORD;
  }

  @Override
  public void startAgain() throws IOException {
    run("pg_ctl", "-D", data(), "-l", folder.resolve("log").toString(), "-w", "start");
  }

  @Override
  public void stop() throws IOException {
    run("pg_ctl", "-D", data(), "-m", "fast", "-w", "stop");
  }

  @Override
  public void kill() throws IOException {
    run("pg_ctl", "-D", data(), "-m", "immediate", "-w", "stop");
  }

  /** The ids of all its processes, for signals. */
  public List<Long> processes() throws IOException {
    ProcessHandle first =
        ProcessHandle.of(
                Long.parseLong(
                    Files.readAllLines(Path.of(data(), "postmaster.pid")).getFirst().strip()))
            .orElseThrow(() -> new IOException("the server in " + folder + " is not running"));
    return Stream.concat(Stream.of(first), first.descendants()).map(ProcessHandle::pid).toList();
  }

  /** A connection that leaves the types of texts to the server. */
  @Override
  public Connection connect(String database) throws SQLException {
    return DriverManager.getConnection(
        "jdbc:postgresql://127.0.0.1:%d/%s?stringtype=unspecified&reWriteBatchedInserts=true"
            .formatted(port, database.isEmpty() ? "postgres" : database),
        USER,
        PASSWORD);
  }

  @Override
  public void createGarden(String database, int accessions, long seed)
      throws IOException, SQLException {
    createDatabase(database);
    try (Connection connection = connect(database);
        Statement statement = connection.createStatement()) {
      Garden.createOnPostgres(connection, accessions, seed);
      statement.execute("ANALYZE");
    }
  }

  @Override
  public String shell(String database) {
    return "PGPASSWORD=%s psql -h 127.0.0.1 -p %d -U %s %s -c"
        .formatted(PASSWORD, port, USER, database);
  }

  @Override
  public void cutConnections() throws SQLException {
    try (Connection connection = connect("");
        Statement statement = connection.createStatement()) {
      statement.execute(
          "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
              + " WHERE application_name = 'mnemex'");
    }
  }

  private void run(String tool, String... arguments) throws IOException {
    List<String> command = new ArrayList<>(Processes.as(USER));
    command.add(bin.resolve(tool).toString());
    command.addAll(List.of(arguments));
    Processes.run(folder, command);
  }

  @Override
  public synchronized void close() throws IOException {
    if (Files.exists(Path.of(data(), "postmaster.pid"))) {
      kill();
    }
    Folders.delete(folder);
  }
}
