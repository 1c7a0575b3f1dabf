package org.mnemex.sync.source;

import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;

/** A database that records come from. */
public interface Source {
  String name();

  /**
   * Checks an index definition against the source.
   *
   * @throws org.mnemex.sync.definition.InvalidDefinitionException for the first problem
   */
  void check(IndexDefinition index) throws SourceUnavailableException;

  /** Whether a new connection is encrypted; null where nothing leaves this machine. */
  default @Nullable Boolean isEncrypted() throws SourceUnavailableException {
    return null;
  }

  /** Its current tables. */
  Catalogue catalogue() throws SourceUnavailableException;

  /**
   * Foreign keys and comments, by table.
   *
   * @param tables the tables to describe
   */
  Map<String, TableNotes> notes(Set<String> tables) throws SourceUnavailableException;

  /**
   * A few rows of a table, null values and bytes left out.
   *
   * @param columns the columns to read, all of the table
   */
  List<Map<String, Object>> sample(String table, List<String> columns, int limit)
      throws SourceUnavailableException;

  /**
   * The requirements for following changes of these tables, met or not.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   */
  List<Requirement> requirements(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException;

  /**
   * Those of some tables that our account may not read, as far as the database can say.
   *
   * @return by table, the statements that allow it, for an administrator
   */
  default Map<String, List<String>> unreadable(Set<String> tables)
      throws SourceUnavailableException {
    return Map.of();
  }

  /** Advice that makes following this shape faster or more reliable. */
  List<Requirement> advice(RecordShape shape) throws SourceUnavailableException;

  /**
   * Ensures that changes of these tables are captured from now on, with these columns.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   * @throws NotPreparedException if something is missing that must not be created without consent
   */
  void prepare(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException;

  /**
   * Creates what is missing for these tables, with consent.
   *
   * @param columnsByTable as for {@link #prepare}
   * @throws NotPreparedException if the database refuses a statement
   */
  void make(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException;

  /**
   * The statements that remove everything created in the database for this source, in order; what
   * another installation needs stays.
   */
  List<String> removal(OwnReaders own) throws SourceUnavailableException;

  /** Removes everything created in the database for this source. */
  void forget(OwnReaders own) throws SourceUnavailableException;

  /** The readers for which the database keeps changes. */
  List<SourceReader> readers() throws SourceUnavailableException;

  /**
   * How much the database keeps for each of some readers of ours; those for which it keeps nothing
   * are left out.
   *
   * @param readers their names, as in {@link #capture}
   */
  Map<String, SourceReader> retained(Set<String> readers) throws SourceUnavailableException;

  /** The database's name of a reader; several may share one. */
  String readerName(String reader);

  /**
   * Removes a reader from the database.
   *
   * @param name as the database knows it
   */
  void dropReader(String name) throws SourceUnavailableException;

  /**
   * Opens a way to follow changes; to be closed by the caller.
   *
   * @param reader name of the reader, under which the source remembers what is still needed
   * @param columnsByTable by table, the columns by which its rows are related to records; changes
   *     of other tables may be handed out too
   */
  Capture capture(String reader, Map<String, Set<String>> columnsByTable);

  /** Opens a way to ask for positions, or to end a reader. */
  default Capture capture(String reader) {
    return capture(reader, Map.of());
  }

  /** The columns that a shape reads if reading starts now. */
  ReadColumns columns(RecordShape shape) throws SourceUnavailableException;

  /**
   * The columns that a shape read when somebody last looked.
   *
   * @param age how long ago that may have been
   * @return null if changes of its tables may not have been captured then
   */
  default @Nullable ReadColumns seenColumns(RecordShape shape, Duration age)
      throws SourceUnavailableException {
    return columns(shape);
  }

  /**
   * Opens a way to read records of a shape; to be closed by the caller.
   *
   * @param columns the columns to read; null for all that exist at the first read
   * @param shard the records to read; others are as if they were not there
   */
  RecordReader reader(
      RecordShape shape,
      Map<String, String> expressions,
      @Nullable ReadColumns columns,
      Shard shard);

  /**
   * Parses a position in our notation or the database's.
   *
   * @throws IllegalArgumentException if it is invalid
   */
  Position position(String text);

  /** Opens a reader of all records with all columns that exist at the first read. */
  default RecordReader reader(RecordShape shape, Map<String, String> expressions) {
    return reader(shape, expressions, null, Shard.WHOLE);
  }

  /** The polling interval; 0 if changes are pushed. */
  Duration lookInterval();

  /** The maximum rate of a backfill in records per second, 0 for no limit. */
  int recordsPerSecond();

  /** How much the database may retain for a stopped feed, 0 for no limit. */
  long mostRetained();

  /** Follows changes. Used by one thread. */
  interface Capture extends AutoCloseable {
    /** The position after the last change; later changes are kept from now on. */
    Position now() throws SourceUnavailableException;

    /** Notes that this reader will ask for the changes after a position. Asks nobody. */
    default void continueFrom(Position position) {
      // Most sources know by themselves.
    }

    /** The position after the last change, for comparison only. */
    Position last() throws SourceUnavailableException;

    /**
     * The changes after a position; waits if there are none.
     *
     * @param limit the maximum number of changes
     * @param wait the longest wait
     * @throws PositionLostException if the source no longer has them
     */
    Changes after(Position position, int limit, Duration wait)
        throws SourceUnavailableException, InterruptedException;

    /**
     * How far a thread is that waits in {@link #after}; null if there is something for it to take,
     * nobody waits, or the source cannot say. Thread-safe.
     */
    default @Nullable Reached reached() {
      return null;
    }

    /** Ends the current wait, or the next, where the source says how far it is. Thread-safe. */
    default void wake() {
      // Other waits are short.
    }

    /** Confirms changes up to a position: this reader will not ask for them again. */
    void done(Position position) throws SourceUnavailableException;

    /** Ends this reader for good. */
    void leave() throws SourceUnavailableException;

    /** Aborts its connections. Thread-safe. */
    void abort();

    @Override
    void close();
  }
}
