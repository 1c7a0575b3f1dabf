package org.mnemex.sync.definition;

import java.nio.file.Path;

/** A connection to a database. */
public sealed interface SourceDefinition {
  /** Lower-case name. */
  String name();

  /** Whether what is needed in the database may be made without asking. */
  boolean mayPrepare();

  /**
   * An SQLite database.
   *
   * @param file the database file
   */
  record Sqlite(String name, Path file, boolean mayPrepare) implements SourceDefinition {}

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
      boolean mayPrepare)
      implements SourceDefinition {}

  /** A kind of server. */
  enum Kind {
    POSTGRES,
    MARIADB
  }
}
