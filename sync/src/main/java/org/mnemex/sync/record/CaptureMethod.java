package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceReader;

/** One way to notice changes in one kind of database. */
public interface CaptureMethod {
  /**
   * What is needed, in the order in which to make it.
   *
   * @param columnsByTable by table, the columns by which its rows are related to records
   */
  List<Requirement> requirements(Connection connection, Map<String, Set<String>> columnsByTable)
      throws SQLException;

  /**
   * A way to follow changes.
   *
   * @param reader name of who follows
   */
  Source.Capture open(String reader);

  /**
   * The statements that remove everything that was made for it, in order; what another installation
   * needs stays.
   */
  List<String> removal(Connection connection, OwnReaders own) throws SQLException;

  /** For whom the database keeps changes. */
  default List<SourceReader> readers(Connection connection) throws SQLException {
    return List.of();
  }

  /** What the database calls a reader. */
  default String readerName(String reader) {
    return reader;
  }

  /** Lets the database forget a reader. */
  default void dropReader(Connection connection, String name) throws SQLException {
    // It knows none.
  }
}
