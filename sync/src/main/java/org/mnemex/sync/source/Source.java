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
   * Whether an index can be built from it, as far as it can tell.
   *
   * @throws org.mnemex.sync.definition.InvalidDefinitionException for the first thing that cannot
   *     be
   */
  void check(IndexDefinition index) throws SourceUnavailableException;

  /** Its tables as they are now. */
  Catalogue catalogue() throws SourceUnavailableException;

  /**
   * What the database says of its tables besides their columns, by table.
   *
   * @param tables those to tell of
   */
  Map<String, TableNotes> notes(Set<String> tables) throws SourceUnavailableException;

  /**
   * A few rows of a table, null values and bytes left out.
   *
   * @param columns those to read, all of the table
   */
  List<Map<String, Object>> sample(String table, List<String> columns, int limit)
      throws SourceUnavailableException;

  /**
   * What the database must have before changes of these tables can be followed, met or not.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   */
  List<Requirement> requirements(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException;

  /** What would make following this shape faster or surer. */
  List<Requirement> advice(RecordShape shape) throws SourceUnavailableException;

  /**
   * Sees to it that changes of these tables are captured from now on, with these columns.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   * @throws NotPreparedException if something is missing that may not be made without asking
   */
  void prepare(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException;

  /**
   * Makes what is missing for these tables, because somebody has said so.
   *
   * @param columnsByTable as for {@link #prepare}
   * @throws NotPreparedException if the database refuses a statement
   */
  void make(Map<String, Set<String>> columnsByTable)
      throws SourceUnavailableException, NotPreparedException;

  /**
   * The statements that remove everything that was made in the database for this source, in order;
   * what another installation needs stays.
   */
  List<String> removal(OwnReaders own) throws SourceUnavailableException;

  /** Removes everything that was made in the database for this source. */
  void forget(OwnReaders own) throws SourceUnavailableException;

  /** For whom the database keeps changes. */
  List<SourceReader> readers() throws SourceUnavailableException;

  /** What the database calls a reader. */
  String readerName(String reader);

  /**
   * Lets the database forget a reader.
   *
   * @param name as the database knows it
   */
  void dropReader(String name) throws SourceUnavailableException;

  /**
   * Opens a way to follow changes; to be closed by the caller.
   *
   * @param reader name of who follows, under which the source remembers what is still needed
   */
  Capture capture(String reader);

  /** What is read of the tables of a shape, if it is read from now on. */
  ReadColumns columns(RecordShape shape) throws SourceUnavailableException;

  /**
   * Opens a way to read records of a shape; to be closed by the caller.
   *
   * @param columns what to read of the tables; null for all there is when they are read first
   */
  RecordReader reader(
      RecordShape shape, Map<String, String> expressions, @Nullable ReadColumns columns);

  /**
   * A position as somebody gives it: as we write it, or as the database tells it.
   *
   * @throws IllegalArgumentException if it is none
   */
  Position position(String text);

  /** Opens a way to read records of a shape with all columns there are when they are read first. */
  default RecordReader reader(RecordShape shape, Map<String, String> expressions) {
    return reader(shape, expressions, null);
  }

  /** How often changes are looked for; 0 if they are told of. */
  Duration lookInterval();

  /** How many records a backfill may read a second, 0 for no limit. */
  int recordsPerSecond();

  /** How much the database may keep for a feed that does not follow, 0 for no limit. */
  long mostRetained();

  /** Follows changes. Used by one thread. */
  interface Capture extends AutoCloseable {
    /** The position behind the last change; from now on changes behind it are kept. */
    Position now() throws SourceUnavailableException;

    /** The position behind the last change, only to compare it with others. */
    Position last() throws SourceUnavailableException;

    /**
     * The changes after a position, waiting for one if there are none.
     *
     * @param limit how many at most
     * @param wait how long to wait at most
     * @throws PositionLostException if the source no longer knows them
     */
    Changes after(Position position, int limit, Duration wait)
        throws SourceUnavailableException, InterruptedException;

    /** Says that this reader will not ask for changes up to a position any more. */
    void done(Position position) throws SourceUnavailableException;

    /** Says that this reader will never come back. */
    void leave() throws SourceUnavailableException;

    /** Cuts its connections, whatever they are waiting for; may be called by any thread. */
    void abort();

    @Override
    void close();
  }
}
