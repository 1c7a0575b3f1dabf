package org.mnemex.sync.definition;

import java.nio.file.Path;
import java.time.Duration;
import java.time.ZoneId;
import java.util.Map;

/** Where records come from. */
public sealed interface SourceDefinition {
  /** Lower-case name. */
  String name();

  Following following();

  /**
   * How a source is followed.
   *
   * @param mayPrepare whether what is needed in the database may be made without asking
   * @param recordsPerSecond how many records a backfill reads a second at most, 0 for no limit
   * @param capture how changes are noticed
   * @param mostRetained how much the database may keep for a feed that does not follow, in bytes of
   *     a log or lines of a journal; 0 for no limit
   */
  record Following(boolean mayPrepare, int recordsPerSecond, Capture capture, long mostRetained) {
    /** Without a limit to what is kept. */
    public Following(boolean mayPrepare, int recordsPerSecond, Capture capture) {
      this(mayPrepare, recordsPerSecond, capture, 0);
    }

    /** As a kind of database is followed if nothing else is said; nothing is made unasked. */
    public static final Following ASKING = new Following(false, 0, new Usual());

    /** As a kind of database is followed if nothing else is said; what is needed is made. */
    public static final Following PREPARING = new Following(true, 0, new Usual());
  }

  /** How changes are noticed. */
  sealed interface Capture {}

  /** By the replication log where there is one, else by a journal. */
  record Usual() implements Capture {}

  /** By a table that triggers write to. */
  record Journal() implements Capture {}

  /**
   * By columns that say when a row was last changed. Rows that vanish are not noticed, nor are rows
   * that move from one record to another noticed for the former.
   *
   * @param watermarks column by table
   * @param every how often to look
   * @param overlap how long before the last look a row is looked at again, for transactions that
   *     take so long from the change to the commit
   * @param zone of columns that say a time without a zone
   */
  record Poll(Map<String, String> watermarks, Duration every, Duration overlap, ZoneId zone)
      implements Capture {
    public Poll {
      watermarks = Map.copyOf(watermarks);
    }
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

  /** Records that are pushed over HTTP. */
  record Push(String name, Following following) implements SourceDefinition {}

  /** A kind of server. */
  enum Kind {
    POSTGRES(5432, "public"),
    MARIADB(3306, "");

    private final int port;
    private final String schema;

    Kind(int port, String schema) {
      this.port = port;
      this.schema = schema;
    }

    /** The port that such servers usually have. */
    public int port() {
      return port;
    }

    /** The schema that tables usually are in; empty where the database itself is the schema. */
    public String schema() {
      return schema;
    }
  }
}
