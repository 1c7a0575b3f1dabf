package org.mnemex.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.PostgresServer;

/** The garden on a private PostgreSQL server. */
record PostgresGarden(PostgresServer server) implements BenchDatabase {
  static PostgresGarden create(int accessions) throws IOException, SQLException {
    PostgresServer server = PostgresServer.start(Files.createTempDirectory("mnemex-bench-pg"));
    server.createDatabase("garden");
    try (Connection connection = server.connect("garden")) {
      Garden.createOnPostgres(connection, accessions, 1759);
      connection.createStatement().execute("ANALYZE");
    }
    return new PostgresGarden(server);
  }

  @Override
  public String name() {
    return "PostgreSQL";
  }

  @Override
  public Map<String, String> environment() {
    return server.environment();
  }

  @Override
  public Map<String, String> definitions() throws IOException {
    return GardenBench.files("garden-on-postgres");
  }

  @Override
  public Connection connect() throws SQLException {
    return server.connect("garden");
  }

  @Override
  public String recordsAsJson() {
    return SqliteGarden.RECORDS_AS_JSON
        .replace("json_object(", "json_build_object(")
        .replace("json_group_array(", "json_agg(");
  }

  @Override
  public BareReader bareReader() throws SQLException {
    return new BareLogReader(server);
  }

  @Override
  public void close() throws IOException {
    server.close();
  }
}
