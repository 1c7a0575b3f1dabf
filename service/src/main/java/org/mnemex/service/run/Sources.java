package org.mnemex.service.run;

import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.mnemex.engine.schema.NearestName;
import org.mnemex.service.web.ProblemException;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.mariadb.MariadbSource;
import org.mnemex.sync.postgres.PostgresSource;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.mnemex.sync.sqlite.SqliteSource;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/** Questions about sources. */
@Component
public class Sources {
  private final Installation installation;

  public Sources(Installation installation) {
    this.installation = installation;
  }

  /** The source of a definition. */
  static Source open(SourceDefinition definition) {
    return switch (definition) {
      case SourceDefinition.Sqlite sqlite -> new SqliteSource(sqlite);
      case SourceDefinition.Server server ->
          switch (server.kind()) {
            case POSTGRES -> new PostgresSource(server);
            case MARIADB -> new MariadbSource(server);
          };
    };
  }

  /**
   * Whether a source can be followed for the indexes that use it.
   *
   * @param reachable whether it answers
   * @param problem why not
   * @param requirements what it must have, for all indexes together
   */
  public record Checked(
      String source, boolean reachable, String problem, List<Requirement> requirements) {}

  /** Names of all sources. */
  public Set<String> names() {
    return new TreeSet<>(installation.running().sources().keySet());
  }

  /**
   * Checks a source.
   *
   * @throws ProblemException if there is none of that name
   */
  public Checked check(String name) {
    Source source = source(name);
    List<RecordShape> shapes =
        installation.running().indexes().values().stream()
            .map(Running.RunningIndex::index)
            .filter(index -> index.source().equals(name))
            .map(IndexDefinition::shape)
            .toList();
    Map<String, Set<String>> watched = new TreeMap<>();
    for (RecordShape shape : shapes) {
      shape
          .watchedColumns()
          .forEach(
              (table, columns) ->
                  watched.computeIfAbsent(table, t -> new TreeSet<>()).addAll(columns));
    }
    Set<Requirement> all = new LinkedHashSet<>();
    try {
      all.addAll(source.requirements(watched));
      for (RecordShape shape : shapes) {
        all.addAll(source.advice(shape));
      }
      return new Checked(name, true, "", List.copyOf(all));
    } catch (SourceUnavailableException e) {
      return new Checked(name, false, String.valueOf(e.getMessage()), List.copyOf(all));
    }
  }

  /**
   * The tables of a source.
   *
   * @throws ProblemException if there is none of that name, or it cannot be asked
   */
  public List<Catalogue.Table> tables(String name) {
    try {
      return List.copyOf(source(name).catalogue().tables().values());
    } catch (SourceUnavailableException e) {
      throw new ProblemException(
          HttpStatus.SERVICE_UNAVAILABLE,
          "source-unavailable",
          String.valueOf(e.getMessage()),
          null);
    }
  }

  private Source source(String name) {
    Running.RunningSource source = installation.running().sources().get(name);
    if (source == null) {
      throw ProblemException.notFound(
          "unknown-source", "there is no source '" + name + "'", NearestName.to(name, names()));
    }
    return source.source();
  }
}
