package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;

/** A way to capture changes of one kind of database. */
public interface CaptureMethod {
  /**
   * Its requirements, in the order in which to meet them.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   */
  List<Requirement> requirements(Connection connection, Map<String, Set<String>> columnsByTable)
      throws SQLException;

  /**
   * Opens a capture.
   *
   * @param reader name of the reader
   * @param columnsByTable as for {@link Source#capture}
   */
  Source.Capture open(String reader, Map<String, Set<String>> columnsByTable);

  /**
   * Whether one capture can read for all readers: the number of each change tells which positions
   * include it.
   */
  default boolean canReadForAll() {
    return false;
  }

  /**
   * The statements that remove everything it created, in order; what another installation needs
   * stays.
   */
  List<String> removal(Connection connection, OwnReaders own) throws SQLException;

  /** The readers for which the database keeps changes. */
  default List<SourceReader> readers(Connection connection) throws SQLException {
    return List.of();
  }

  /**
   * How much is kept for each of some readers; those for which the database keeps nothing are left
   * out.
   */
  default Map<String, SourceReader> retained(Connection connection, Set<String> readers)
      throws SQLException {
    Map<String, SourceReader> retained = new HashMap<>();
    for (SourceReader found : readers(connection)) {
      readers.stream()
          .filter(reader -> readerName(reader).equals(found.name()))
          .forEach(reader -> retained.put(reader, found));
    }
    return retained;
  }

  /** The database's name of a reader. */
  default String readerName(String reader) {
    return reader;
  }

  /** Removes a reader from the database. */
  default void dropReader(Connection connection, String name) throws SQLException {
    // It has no readers.
  }
}
