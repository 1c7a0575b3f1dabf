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
   * @param mayPrepare whether Mnemex may prepare the database without asking
   * @param recordsPerSecond the maximum rate of a backfill, 0 for no limit
   * @param capture how changes are noticed
   * @param mostRetained how much the database may retain for a stopped feed, in bytes of a log or
   *     lines of a journal; 0 for no limit
   */
  record Following(boolean mayPrepare, int recordsPerSecond, Capture capture, long mostRetained) {
    /** Settings without a limit to what is retained. */
    public Following(boolean mayPrepare, int recordsPerSecond, Capture capture) {
      this(mayPrepare, recordsPerSecond, capture, 0);
    }

    /** The default settings of a kind of database, with {@code prepare: ask}. */
    public static final Following ASKING = new Following(false, 0, new Usual());

    /** The default settings of a kind of database, with {@code prepare: automatic}. */
    public static final Following PREPARING = new Following(true, 0, new Usual());
  }

  /** How changes are noticed. */
  sealed interface Capture {}

  /** The replication log if there is one, else a journal. */
  record Usual() implements Capture {}

  /** A table written by triggers. */
  record Journal() implements Capture {}

  /**
   * Columns with the time of a row's last change. Deleted rows go unnoticed, and so does the former
   * record of a row that moves.
   *
   * @param watermarks column by table
   * @param every how often to look
   * @param overlap how far each look reaches back before the previous one, for transactions that
   *     take that long from change to commit
   * @param zone time zone of columns without one
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
   * @param schema the schema of the tables; empty where the database itself is the schema
   * @param tls how connections are encrypted
   * @param masks hides the values of references in messages
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
      Following following,
      Tls tls,
      Masks masks)
      implements SourceDefinition {

    /** A definition without references and without requirements of TLS. */
    public Server(
        String name,
        Kind kind,
        String host,
        int port,
        String database,
        String schema,
        String user,
        Secret password,
        Following following) {
      this(
          name,
          kind,
          host,
          port,
          database,
          schema,
          user,
          password,
          following,
          Tls.USUAL,
          new Masks());
    }
  }

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

    /** The default port. */
    public int port() {
      return port;
    }

    /** The default schema; empty where the database itself is the schema. */
    public String schema() {
      return schema;
    }
  }
}
