package org.mnemex.service.status;

import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.definition.ExpressionCheck;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.draft.Draft;
import org.mnemex.sync.draft.PersonalColumns;
import org.mnemex.sync.source.Catalogue;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.OwnReaders;
import org.mnemex.sync.source.Requirement;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.springframework.stereotype.Component;

/** Questions about sources. */
@Component
public class Sources {
  private final Installation installation;

  public Sources(Installation installation) {
    this.installation = installation;
  }

  /**
   * Whether the indexes that use a source can follow it.
   *
   * @param source name of the source
   * @param reachable whether it answers
   * @param problem why it does not; otherwise empty
   * @param encrypted whether connections are encrypted; null where nothing leaves this machine
   * @param requirements what all its indexes together need
   * @param readers for whom it keeps changes
   */
  public record Checked(
      String source,
      boolean reachable,
      String problem,
      @Nullable Boolean encrypted,
      List<Requirement> requirements,
      List<Reader> readers) {}

  /**
   * A reader for which a source keeps changes.
   *
   * @param name its name in the database
   * @param feeds the editions that it feeds; null if it belongs to another installation
   * @param retained how much is kept for it
   * @param unit bytes or changes
   */
  public record Reader(String name, @Nullable String feeds, long retained, String unit) {}

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
    List<RecordShape> shapes = shapes(name);
    Map<String, Set<String>> watched = watched(shapes);
    Set<Requirement> all = new LinkedHashSet<>();
    try {
      all.addAll(source.requirements(watched));
      for (RecordShape shape : shapes) {
        all.addAll(source.advice(shape));
      }
      for (IndexDefinition index : indexes(installation.running(), name)) {
        ExpressionCheck.warnings(index)
            .forEach(
                warning ->
                    all.add(
                        new Requirement(
                            "index '%s', %s".formatted(index.name(), warning),
                            false,
                            List.of(),
                            Requirement.Kind.ADVICE)));
      }
      return new Checked(name, true, "", source.isEncrypted(), List.copyOf(all), readers(source));
    } catch (SourceUnavailableException e) {
      return new Checked(
          name, false, String.valueOf(e.getMessage()), null, List.copyOf(all), List.of());
    }
  }

  private List<Reader> readers(Source source) throws SourceUnavailableException {
    Map<String, String> feeding = new TreeMap<>();
    // Several sources may lead to the same database, which shows the readers of all of them.
    for (RunningSource one : installation.running().sources().values()) {
      installation
          .readers()
          .of(one.source().name())
          .forEach(
              (reader, feeds) ->
                  feeding.merge(
                      one.source().readerName(reader), feeds, (some, more) -> some + ", " + more));
    }
    return source.readers().stream()
        .map(
            reader ->
                new Reader(
                    reader.name(),
                    feeding.get(reader.name()),
                    reader.retained(),
                    reader.unit().name().toLowerCase(Locale.ROOT)))
        .toList();
  }

  /**
   * Removes an orphaned reader from a source, so that the source keeps no changes for it.
   *
   * @throws ProblemException if there is none, an edition of ours is fed by it, or the source
   *     refuses
   */
  public void dropReader(String name, String reader) {
    Source source = source(name);
    try {
      List<Reader> readers = readers(source);
      Reader found =
          readers.stream()
              .filter(one -> one.name().equals(reader))
              .findFirst()
              .orElseThrow(
                  () ->
                      new ProblemException(
                          ProblemType.UNKNOWN_READER,
                          "source '%s' has no reader '%s'".formatted(name, reader),
                          NearestName.to(reader, readers.stream().map(Reader::name).toList())));
      if (found.feeds() != null) {
        throw new ProblemException(
            ProblemType.READER_IN_USE, "reader '%s' feeds %s".formatted(reader, found.feeds()));
      }
      source.dropReader(reader);
    } catch (SourceUnavailableException e) {
      throw unavailable(e);
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
      throw unavailable(e);
    }
  }

  private static Map<String, Set<String>> watched(List<RecordShape> shapes) {
    Map<String, Set<String>> watched = new TreeMap<>();
    for (RecordShape shape : shapes) {
      shape
          .watchedColumns()
          .forEach(
              (table, columns) ->
                  watched.computeIfAbsent(table, t -> new TreeSet<>()).addAll(columns));
    }
    return watched;
  }

  private List<RecordShape> shapes(String name) {
    return indexes(installation.running(), name).stream().map(IndexDefinition::shape).toList();
  }

  private static List<IndexDefinition> indexes(Running running, String source) {
    return new TreeMap<>(running.indexes())
        .values().stream()
            .map(RunningIndex::index)
            .filter(index -> index.source().equals(source))
            .toList();
  }

  /**
   * Statements for a source database.
   *
   * @param source name of the source
   * @param statements all statements in order
   * @param left statements that need more privileges than ours
   * @param run whether they were run
   * @param indexes the indexes that need them
   * @param refused the statement that the database refused, and why; null if none
   */
  public record Statements(
      String source,
      List<String> statements,
      List<String> left,
      boolean run,
      List<String> indexes,
      @Nullable String refused) {}

  /**
   * Prepares a source database for its indexes, or only lists the statements.
   *
   * @param with definitions of indexes that are not applied yet
   * @throws ProblemException if there is no such source, or it cannot be asked
   */
  public Statements prepare(String name, boolean run, List<DefinitionFile> with) {
    Source source = source(name);
    List<IndexDefinition> indexes =
        with.isEmpty()
            ? indexes(installation.running(), name)
            : indexes(installation.after(with), name);
    Map<String, Set<String>> watched =
        watched(indexes.stream().map(IndexDefinition::shape).toList());
    List<String> names = indexes.stream().map(IndexDefinition::name).toList();
    try {
      List<Requirement> missing =
          source.requirements(watched).stream().filter(Requirement::isMissing).toList();
      List<String> ours = statements(missing, Requirement.Kind.PREPARABLE);
      List<String> left = statements(missing, Requirement.Kind.ADMINISTRATIVE);
      boolean now = run && left.isEmpty();
      if (now) {
        source.make(watched);
      }
      return new Statements(name, ours, left, now, names, null);
    } catch (NotPreparedException e) {
      return new Statements(name, List.of(), e.statements(), false, names, e.getMessage());
    } catch (SourceUnavailableException e) {
      throw unavailable(e);
    }
  }

  private static List<String> statements(List<Requirement> missing, Requirement.Kind kind) {
    return missing.stream()
        .filter(requirement -> requirement.kind() == kind)
        .flatMap(requirement -> requirement.statements().stream())
        .toList();
  }

  /**
   * Removes a source and everything Mnemex created in its database, or only lists the statements.
   *
   * @throws ProblemException if there is no such source, it cannot be asked, or an index uses it
   */
  public Statements forget(String name, boolean run) {
    Source source = source(name);
    try {
      if (run && !shapes(name).isEmpty()) {
        throw new ProblemException(
            ProblemType.DEFINITION_IN_USE,
            "source '%s' is used by an index; remove that first".formatted(name));
      }
      OwnReaders own = installation.readers().own();
      List<String> statements = source.removal(own);
      if (run) {
        source.forget(own);
        installation.remove(new DefinitionId(DefinitionKind.SOURCE, name));
      }
      return new Statements(name, statements, List.of(), run, List.of(), null);
    } catch (SourceUnavailableException e) {
      throw unavailable(e);
    }
  }

  /**
   * Some rows of a table. Columns that any index has under never, and those that look personal, are
   * left out.
   *
   * @throws ProblemException if there is no such table, or the source cannot be asked
   */
  public List<Map<String, Object>> rows(String name, String table, int limit) {
    Source source = source(name);
    try {
      Catalogue catalogue = source.catalogue();
      Catalogue.Table found = catalogue.table(table);
      if (found == null) {
        throw new ProblemException(
            ProblemType.UNKNOWN_TABLE,
            "source '%s' has no table '%s'".formatted(name, table),
            NearestName.to(table, catalogue.tables().keySet()));
      }
      Set<String> never = new TreeSet<>();
      shapes(name).forEach(shape -> never.addAll(shape.never()));
      List<String> columns =
          found.columns().stream()
              .filter(c -> !c.binary() && !never.contains(table + "." + c.name()))
              .map(Catalogue.Column::name)
              .filter(column -> !PersonalColumns.isByName(column))
              .toList();
      return columns.isEmpty()
          ? List.of()
          : PersonalColumns.leftOut(source.sample(table, columns, limit), columns);
    } catch (SourceUnavailableException e) {
      throw unavailable(e);
    }
  }

  /**
   * Proposes definitions over a table.
   *
   * @throws ProblemException if nothing can be built on it
   */
  public String draft(String name, String table) {
    Source source = source(name);
    try {
      return Draft.of(source, table);
    } catch (IllegalArgumentException e) {
      throw new ProblemException(
          ProblemType.NO_DRAFT, String.valueOf(e.getMessage()), suggestion(source, table));
    } catch (SourceUnavailableException e) {
      throw unavailable(e);
    }
  }

  private static @Nullable String suggestion(Source source, String table) {
    try {
      Set<String> tables = source.catalogue().tables().keySet();
      return tables.contains(table) ? null : NearestName.to(table, tables);
    } catch (SourceUnavailableException e) {
      return null;
    }
  }

  private static ProblemException unavailable(SourceUnavailableException e) {
    return new ProblemException(ProblemType.SOURCE_UNAVAILABLE, String.valueOf(e.getMessage()));
  }

  private Source source(String name) {
    RunningSource source = installation.running().sources().get(name);
    if (source == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_SOURCE,
          "there is no source '" + name + "'",
          NearestName.to(name, names()));
    }
    return source.source();
  }
}
