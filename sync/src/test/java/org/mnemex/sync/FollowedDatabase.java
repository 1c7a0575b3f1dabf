package org.mnemex.sync;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/** A new, empty database, and a source that follows it in one of all ways. */
public final class FollowedDatabase {
  /** A way to follow a database. */
  public enum Way {
    SQLITE,
    POSTGRES_LOG,
    POSTGRES_JOURNAL,
    MARIADB_LOG,
    MARIADB_JOURNAL;

    public static final List<Way> ALL = List.of(values());
    public static final List<Way> POSTGRES = List.of(POSTGRES_LOG, POSTGRES_JOURNAL);
  }

  public final Source source;
  private final Path file;

  /** Its server; null for SQLite. */
  public final SourceDefinition.@Nullable Server server;

  /**
   * @param folder for the file of a database without a server
   */
  public FollowedDatabase(Way way, Path folder) throws Exception {
    file = folder.resolve("garden.db");
    server =
        switch (way) {
          case SQLITE -> null;
          case POSTGRES_LOG -> TestServers.newPostgres();
          case POSTGRES_JOURNAL ->
              TestServers.followed(TestServers.newPostgres(), new SourceDefinition.Journal());
          case MARIADB_LOG -> TestServers.newMariadbWithJournal();
          case MARIADB_JOURNAL ->
              TestServers.followed(
                  TestServers.newMariadbWithJournal(), new SourceDefinition.Journal());
        };
    source =
        switch (way) {
          case SQLITE ->
              new SqliteSource(
                  new SourceDefinition.Sqlite(
                      "garden", file, SourceDefinition.Following.PREPARING));
          case POSTGRES_LOG, POSTGRES_JOURNAL -> new PostgresSource(server);
          case MARIADB_LOG, MARIADB_JOURNAL -> new MariadbSource(server);
        };
  }

  public Connection connect() throws SQLException {
    return server == null
        ? DriverManager.getConnection("jdbc:sqlite:" + file + "?busy_timeout=10000")
        : TestServers.connect(server);
  }
}
