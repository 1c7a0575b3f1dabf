package org.mnemex.service.install;

import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.push.PushSource;
import org.mnemex.sync.push.PushStore;
import org.mnemex.sync.source.ReaderPositions;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.sqlite.SqliteSource;

/** Opens the source that a definition declares. */
final class OpenSources {
  private OpenSources() {}

  /** The source of a definition, not connected yet. */
  static Source open(SourceDefinition definition, PushStore pushes, ReaderPositions positions) {
    return switch (definition) {
      case SourceDefinition.Push push -> new PushSource(push, pushes);
      case SourceDefinition.Sqlite sqlite -> new SqliteSource(sqlite);
      case SourceDefinition.Server server ->
          switch (server.kind()) {
            case POSTGRES -> new PostgresSource(server, positions);
            case MARIADB -> new MariadbSource(server);
          };
    };
  }
}
