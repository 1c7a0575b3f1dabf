package org.mnemex.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import org.mnemex.garden.Garden;
import org.mnemex.garden.server.PostgresServer;

/** A garden whose database can be struck: by what happens to servers, or to files. */
interface StruckGarden extends AutoCloseable {
  String name();

  Connection connect() throws SQLException;

  /** What definitions name of the environment. */
  Map<String, String> environment();

  Map<String, String> definitions() throws IOException;

  /** What can happen to the database; each has an end. */
  List<Faults.Fault> faults(Random random);

  @Override
  void close() throws IOException;

  /** In a file of the folder that services run in. */
  static StruckGarden inFile(Path folder, int accessions) throws IOException, SQLException {
    Path file = GardenFiles.create(folder, accessions);
    return new StruckGarden() {
      @Override
      public String name() {
        return "SQLite";
      }

      @Override
      public Connection connect() throws SQLException {
        return DriverManager.getConnection(Garden.url(file));
      }

      @Override
      public Map<String, String> environment() {
        return Map.of();
      }

      @Override
      public Map<String, String> definitions() {
        return GardenFiles.definitions();
      }

      @Override
      public List<Faults.Fault> faults(Random random) {
        return List.of(
            new Faults.Fault(
                "database locked", () -> GardenFiles.lock(file, random.nextInt(1500))));
      }

      @Override
      public void close() {
        // The folder is a temporary one.
      }
    };
  }

  /** On a server of its own. */
  static StruckGarden onPostgres(int accessions) throws IOException, SQLException {
    PostgresServer server = PostgresServer.start(Files.createTempDirectory("mnemex-pg"));
    server.createGarden("garden", accessions, 7);
    return new StruckGarden() {
      @Override
      public String name() {
        return "PostgreSQL";
      }

      @Override
      public Connection connect() throws SQLException {
        return server.connect("garden");
      }

      @Override
      public Map<String, String> environment() {
        return server.environment();
      }

      @Override
      public Map<String, String> definitions() throws IOException {
        return GardenFiles.definitionsOn("postgres");
      }

      @Override
      public List<Faults.Fault> faults(Random random) {
        return List.of(
            new Faults.Fault(
                "database killed",
                () -> {
                  server.kill();
                  TimeUnit.MILLISECONDS.sleep(random.nextInt(1000));
                  server.startAgain();
                }),
            new Faults.Fault(
                "database suspended", () -> Faults.suspend(server.processes(), random)),
            new Faults.Fault("database cut off", server::cutConnections));
      }

      @Override
      public void close() throws IOException {
        server.close();
      }
    };
  }
}
