package org.mnemex.sync.definition;

import java.nio.file.Path;

/** A connection to a database. */
public sealed interface SourceDefinition {
  /** Lower-case name. */
  String name();

  Following following();

  /**
   * How a source is followed.
   *
   * @param mayPrepare whether what is needed in the database may be made without asking
   * @param recordsPerSecond how many records a backfill reads a second at most, 0 for no limit
   */
  record Following(boolean mayPrepare, int recordsPerSecond) {
    /** Nothing is made in the database without asking. */
    public static final Following ASKING = new Following(false, 0);

    /** What is needed is made. */
    public static final Following PREPARING = new Following(true, 0);
  }

  /**
   * An SQLite database.
   *
   * @param file the database file
   */
  record Sqlite(String name, Path file, Following following) implements SourceDefinition {}

  /**
   * A database on a server.
   *
   * @param schema in which the tables are; empty where the database itself is the schema
   */
  record Server(
      String name,
      Kind kind,
      String host,
      int port,
      String database,
      String schema,
      String user,
      Secret password,
      Following following)
      implements SourceDefinition {}

  /** A kind of server. */
  enum Kind {
    POSTGRES,
    MARIADB
  }
}
