package org.mnemex.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import org.mnemex.garden.server.DatabaseServer;
import org.mnemex.garden.server.MariadbServer;
import org.mnemex.garden.server.PostgresServer;

/** The garden on a private server. */
record ServerGarden(DatabaseServer server, boolean postgres) implements BenchDatabase {
  static ServerGarden onPostgres(int accessions) throws IOException, SQLException {
    return create(
        PostgresServer.start(Files.createTempDirectory("mnemex-bench-pg")), true, accessions);
  }

  static ServerGarden onMariadb(int accessions) throws IOException, SQLException {
    return create(
        MariadbServer.start(Files.createTempDirectory("mnemex-bench-maria")), false, accessions);
  }

  private static ServerGarden create(DatabaseServer server, boolean postgres, int accessions)
      throws IOException, SQLException {
    server.createGarden("garden", accessions, 1759);
    return new ServerGarden(server, postgres);
  }

  @Override
  public String name() {
    return postgres ? "PostgreSQL" : "MariaDB";
  }

  @Override
  public Map<String, String> environment() {
    return server.environment();
  }

  @Override
  public Map<String, String> definitions() throws IOException {
    return GardenBench.files(postgres ? "garden-on-postgres" : "garden-on-mariadb");
  }

  @Override
  public Connection connect() throws SQLException {
    return server.connect("garden");
  }

  @Override
  public String recordsAsJson() {
    return postgres
        ? SqliteGarden.RECORDS_AS_JSON
            .replace("json_object(", "json_build_object(")
            .replace("json_group_array(", "json_agg(")
        : SqliteGarden.RECORDS_AS_JSON.replace("json_group_array(", "json_arrayagg(");
  }

  @Override
  public BareReader bareReader() throws SQLException {
    return postgres ? new BareLogReader(server) : new BareBinlogReader(server);
  }

  @Override
  public void close() throws IOException {
    server.close();
  }
}
