package org.mnemex.garden.server;

import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Map;

/** A private database server. */
public interface DatabaseServer extends AutoCloseable {
  int port();

  /** The account for Mnemex; the server listens on the loopback interface only. */
  String user();

  String password();

  /** A connection to one of its databases, for somebody who may do everything. */
  Connection connect(String database) throws SQLException;

  /** Makes a database with a garden. */
  void createGarden(String database, int accessions, long seed) throws IOException, SQLException;

  /** The beginning of a command line that runs an SQL statement in a database. */
  String shell(String database);

  /** Ends every connection of Mnemex. */
  void cutConnections() throws SQLException;

  /** Stops the server as an administrator would. */
  void stop() throws IOException;

  /** Ends the server at once, as a crash would. */
  void kill() throws IOException;

  /** Starts the server after {@link #stop} or {@link #kill}. */
  void startAgain() throws IOException;

  /** Stops the server and removes its folder; a second call waits for the first. */
  @Override
  void close() throws IOException;

  /** The environment variables that the definitions of the garden on this server name. */
  default Map<String, String> environment() {
    return Map.of(
        "MNEMEX_GARDEN_HOST",
        "127.0.0.1",
        "MNEMEX_GARDEN_PORT",
        Integer.toString(port()),
        "MNEMEX_GARDEN_USER",
        user(),
        "MNEMEX_GARDEN_PASSWORD",
        password());
  }

  /** Makes an empty database. */
  default void createDatabase(String name) throws SQLException {
    try (Connection connection = connect("");
        Statement statement = connection.createStatement()) {
      statement.execute("CREATE DATABASE \"" + name + "\"");
    }
  }
}
