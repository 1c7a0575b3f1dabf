package org.mnemex.garden.server;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.garden.Garden;

/** A private MariaDB server whose binary log can be followed. */
public final class MariadbServer implements DatabaseServer {
  private static final String OWNER = "gardener";
  private static final String USER = "mnemex";
  private static final String PASSWORD = "quillmere";

  private static final String SYSTEM_USER = "mysql";
  private static final Path DAEMON = Path.of("/usr/sbin/mariadbd");
  private static final int START_SECONDS = 120;
  private static final long POLL_MILLIS = 50;

  private final Path folder;
  private final int port;
  private @Nullable Process process;

  private MariadbServer(Path folder, int port) {
    this.folder = folder;
    this.port = port;
  }

  /** Whether Debian's package is installed. */
  public static boolean isInstalled() {
    return Files.isExecutable(DAEMON);
  }

  /**
   * Makes a server in an empty folder and starts it.
   *
   * @throws IOException with what the tools said, if that fails
   */
  public static MariadbServer start(Path folder) throws IOException {
    MariadbServer server = new MariadbServer(folder, Processes.freePort());
    Files.createDirectories(folder.resolve("run"));
    Processes.give(folder, SYSTEM_USER);
    List<String> install = new ArrayList<>(Processes.as(SYSTEM_USER));
    install.addAll(
        List.of(
            "mariadb-install-db",
            "--no-defaults",
            "--datadir=" + server.data(),
            "--auth-root-authentication-method=normal",
            "--skip-test-db"));
    Processes.run(folder, install);
    // Callers may ask for encryption; the certificate is the server's own authority.
    Processes.run(
        folder,
        List.of(
            "openssl",
            "req",
            "-x509",
            "-newkey",
            "rsa:2048",
            "-nodes",
            "-days",
            "3650",
            "-subj",
            "/CN=127.0.0.1",
            "-addext",
            "subjectAltName=IP:127.0.0.1,DNS:localhost",
            "-keyout",
            "tls.key",
            "-out",
            "tls.crt"));
    Files.writeString(
        folder.resolve("my.cnf"),
        """
        [mariadbd]
        datadir=%1$s/data
        socket=%1$s/run/socket
        pid-file=%1$s/run/pid
        tmpdir=%1$s/run
        port=%2$d
        bind-address=127.0.0.1
        server-id=1
        log_bin=binlog
        binlog_format=ROW
        binlog_row_image=FULL
        binlog_row_metadata=FULL
        gtid_strict_mode=1
        character-set-server=utf8mb4
        innodb_flush_log_at_trx_commit=2
        innodb_buffer_pool_size=256M
        max_allowed_packet=64M
        ssl_ca=%1$s/tls.crt
        ssl_cert=%1$s/tls.crt
        ssl_key=%1$s/tls.key
        """
            .formatted(folder, server.port));
    Files.writeString(
        folder.resolve("account.sql"),
        """
        CREATE USER '%1$s'@'%%' IDENTIFIED BY '%2$s';
        GRANT ALL PRIVILEGES ON *.* TO '%1$s'@'%%' WITH GRANT OPTION;
        CREATE USER '%3$s'@'%%' IDENTIFIED BY '%2$s';
        GRANT SELECT, REPLICATION SLAVE, BINLOG MONITOR ON *.* TO '%3$s'@'%%';
        """
            .formatted(OWNER, PASSWORD, USER));
    Processes.give(folder, SYSTEM_USER);
    server.run("--init-file=" + folder.resolve("account.sql"));
    return server;
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
    run();
  }

  private void run(String... more) throws IOException {
    List<String> command = new ArrayList<>(Processes.as(SYSTEM_USER));
    command.add(DAEMON.toString());
    command.add("--defaults-file=" + folder.resolve("my.cnf"));
    command.addAll(List.of(more));
    Path log = folder.resolve("log");
    Process started =
        new ProcessBuilder(command)
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(ProcessBuilder.Redirect.appendTo(log.toFile()))
            .start();
    process = started;
    long deadline = System.nanoTime() + TimeUnit.SECONDS.toNanos(START_SECONDS);
    while (true) {
      try (Connection connection = connect("")) {
        return;
      } catch (SQLException e) {
        if (!started.isAlive() || System.nanoTime() > deadline) {
          throw new IOException("MariaDB did not start: " + Files.readString(log), e);
        }
      }
      try {
        TimeUnit.MILLISECONDS.sleep(POLL_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        throw new IOException("interrupted while MariaDB was starting", e);
      }
    }
  }

  @Override
  public void stop() throws IOException {
    end("TERM");
  }

  @Override
  public void kill() throws IOException {
    end("KILL");
  }

  private void end(String signal) throws IOException {
    Process running = process;
    process = null;
    if (running == null || !running.isAlive()) {
      return;
    }
    Path pid = folder.resolve("run/pid");
    if (Files.exists(pid)) {
      Processes.run(folder, List.of("kill", "-" + signal, Files.readString(pid).strip()));
      Files.deleteIfExists(pid);
    } else {
      running.destroyForcibly();
    }
    running.onExit().join();
  }

  /** A connection that speaks standard SQL. */
  @Override
  public Connection connect(String database) throws SQLException {
    return DriverManager.getConnection(
        ("jdbc:mariadb://127.0.0.1:%d/%s?allowMultiQueries=true&useBulkStmts=true&connectTimeout=2000"
                + "&sessionVariables=sql_mode='ANSI,STRICT_TRANS_TABLES'")
            .formatted(port, database),
        OWNER,
        PASSWORD);
  }

  @Override
  public void createGarden(String database, int accessions, long seed)
      throws IOException, SQLException {
    createDatabase(database);
    try (Connection connection = connect(database)) {
      Garden.createOnMariadb(connection, accessions, seed);
    }
  }

  @Override
  public String shell(String database) {
    return "mariadb -h 127.0.0.1 -P %d -u %s -p%s %s -e".formatted(port, OWNER, PASSWORD, database);
  }

  @Override
  public void cutConnections() throws SQLException {
    try (Connection connection = connect("");
        Statement statement = connection.createStatement()) {
      statement.execute("KILL USER " + USER);
    }
  }

  @Override
  public synchronized void close() throws IOException {
    kill();
    Folders.delete(folder);
  }
}
