package org.mnemex.sync.mariadb;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.record.CaptureMethod;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;

/** Captures changes from the binary log. */
final class BinlogMethod implements CaptureMethod {
  private final MariadbSource source;

  BinlogMethod(MariadbSource source) {
    this.source = source;
  }

  @Override
  public List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    return new BinlogSetup(connection, source.definition()).requirements(columnsByTable);
  }

  @Override
  public Source.Capture open(String reader, Map<String, Set<String>> columnsByTable) {
    return new BinlogCapture(source);
  }

  @Override
  public boolean canReadForAll() {
    return true;
  }

  @Override
  public List<String> removal(Connection connection, OwnReaders own) {
    // Needs no preparation.
    return List.of();
  }
}
