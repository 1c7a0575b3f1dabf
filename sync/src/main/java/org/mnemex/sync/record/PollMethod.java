package org.mnemex.sync.record;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;

/** Captures changes by watermark columns, in any kind of database and without preparation. */
public final class PollMethod implements CaptureMethod {
  private final SqlSource source;
  private final SourceDefinition.Poll poll;

  public PollMethod(SqlSource source, SourceDefinition.Poll poll) {
    this.source = source;
    this.poll = poll;
  }

  @Override
  public List<Requirement> requirements(
      Connection connection, Map<String, Set<String>> columnsByTable) throws SQLException {
    List<Requirement> all = new ArrayList<>();
    Catalogue catalogue = source.catalogue(connection);
    for (String table : columnsByTable.keySet()) {
      String column = poll.watermarks().get(table);
      if (column == null) {
        all.add(
            new Requirement(
                "changes of table '%s' are captured; it has no watermark, so only an audit finds them"
                    .formatted(table),
                false,
                List.of(),
                Requirement.Kind.ADVICE));
        continue;
      }
      Catalogue.Table found = catalogue.table(table);
      Catalogue.Column typed = found == null ? null : found.column(column);
      all.add(
          new Requirement(
              "'%s.%s' is a time, in a table with a primary key".formatted(table, column),
              found != null
                  && typed != null
                  && !found.key().isEmpty()
                  && Watermark.form(connection, source, table, column, typed.type()) != null,
              List.of("-- name another column under 'watermarks', or another kind of capture"),
              Requirement.Kind.ADMINISTRATIVE));
      if (found != null) {
        all.add(
            new Requirement(
                "table '%s' has an index on %s, used to find changes".formatted(table, column),
                found.indexed().contains(column),
                List.of(source.newIndex(table, Set.of(column))),
                Requirement.Kind.ADVICE));
      }
    }
    return all;
  }

  @Override
  public Source.Capture open(String reader, Map<String, Set<String>> columnsByTable) {
    return new PollCapture(source, poll, columnsByTable);
  }

  @Override
  public List<String> removal(Connection connection, OwnReaders own) {
    return List.of();
  }
}
