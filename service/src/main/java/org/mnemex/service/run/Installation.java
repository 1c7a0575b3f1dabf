package org.mnemex.service.run;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.EngineException;
import org.mnemex.engine.schema.NearestName;
import org.mnemex.engine.text.Analyser;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionException;
import org.mnemex.service.definition.DefinitionProblem;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.run.Running.RunningAnalyser;
import org.mnemex.service.run.Running.RunningIndex;
import org.mnemex.service.run.Running.RunningSource;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.service.web.ProblemException;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.push.PushStore;
import org.mnemex.sync.source.NotPreparedException;
import org.mnemex.sync.source.RecordReader;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Holds what is running, and changes it by applying definitions.
 *
 * <p>Applying has three steps: everything is read and checked, also against the databases; then all
 * versions are written down in one transaction; then what runs is swapped and editions are begun.
 * An error in the first step changes nothing, and a crash after the second is made up for at the
 * next start.
 */
@Component
public class Installation {
  private static final Logger LOG = LoggerFactory.getLogger(Installation.class);
  private static final int ENDPOINT_VERSIONS_KEPT = 5;

  private final DefinitionMapper definitions;
  private final EditionStore editionStore;
  private final Quarantine quarantine;
  private final PushStore pushes;
  private final TransactionTemplate transaction;
  private final Clock clock;
  private final Path indexFolder;
  private final DefinitionReader reader = new DefinitionReader(System::getenv);
  private volatile Running running = Running.NOTHING;
  private String id = "";

  public Installation(
      DefinitionMapper definitions,
      EditionStore editionStore,
      Quarantine quarantine,
      PushStore pushes,
      TransactionTemplate transaction,
      Clock clock,
      MnemexSettings settings) {
    this.definitions = definitions;
    this.editionStore = editionStore;
    this.quarantine = quarantine;
    this.pushes = pushes;
    this.transaction = transaction;
    this.clock = clock;
    this.indexFolder = settings.data().resolve("indexes");
  }

  /** Starts everything that was applied before. */
  @PostConstruct
  void start() throws IOException {
    String known = definitions.installation();
    if (known == null) {
      known = UUID.randomUUID().toString().substring(0, 8);
      definitions.insertInstallation(known);
    }
    id = known;
    Map<String, RunningSource> sources = new HashMap<>();
    Map<String, RunningAnalyser> analysers = new HashMap<>();
    Map<String, RunningIndex> indexes = new HashMap<>();
    Map<String, Endpoint> endpoints = new HashMap<>();
    List<DefinitionRow> rows = definitions.current();
    for (DefinitionRow row : rows) {
      if (!row.kind().equals("index")) {
        goOnAfter(row, () -> open(row, sources, analysers, endpoints));
      }
    }
    for (DefinitionRow row : rows) {
      if (row.kind().equals("index")) {
        goOnAfter(row, () -> indexes.put(row.name(), openIndex(row, sources)));
      }
    }
    running = new Running(sources, analysers, indexes, endpoints);
  }

  /** One definition that no longer works must not keep the others from running. */
  private static void goOnAfter(DefinitionRow row, Opening opening) throws IOException {
    try {
      opening.open();
    } catch (DefinitionException | EngineException | IllegalStateException e) {
      LOG.error("{} '{}' is not running: {}", row.kind(), row.name(), e.getMessage());
    }
  }

  @FunctionalInterface
  private interface Opening {
    void open() throws IOException;
  }

  private void open(
      DefinitionRow row,
      Map<String, RunningSource> sources,
      Map<String, RunningAnalyser> analysers,
      Map<String, Endpoint> endpoints) {
    Definition definition = reader.read(reader.parts(row.file(), row.text()).getFirst(), Map.of());
    switch (definition.content()) {
      case Definition.OfSource of ->
          sources.put(
              row.name(),
              new RunningSource(definition, row.version(), Sources.open(of.source(), pushes)));
      case Definition.OfAnalyser of ->
          analysers.put(row.name(), new RunningAnalyser(definition, row.version(), of.analyser()));
      case Definition.OfEndpoint of ->
          endpoints.put(row.name(), new Endpoint(endpointVersions(row.name()), row.version()));
      case Definition.OfIndex of ->
          throw new IllegalArgumentException("indexes are opened when all sources are");
    }
  }

  private RunningIndex openIndex(DefinitionRow row, Map<String, RunningSource> sources)
      throws IOException {
    Definition definition = readIndex(row);
    IndexDefinition index = ((Definition.OfIndex) definition.content()).index();
    RunningSource source = sources.get(index.source());
    if (source == null) {
      throw new IllegalStateException("index '" + row.name() + "' has lost its source");
    }
    Editions editions = editions(row.name());
    editions.open(
        version -> {
          DefinitionRow old = definitions.version("index", row.name(), version);
          return ((Definition.OfIndex) readIndex(old == null ? row : old).content()).index();
        },
        source.source());
    RunningIndex opened =
        new RunningIndex(
            definition, row.version(), index, identity(index, source.definition()), editions);
    boolean begun = editions.all().stream().anyMatch(edition -> edition.version() == row.version());
    if (!begun) {
      // A crash came between writing down and beginning, or the edition was damaged.
      editions.build(index, row.version(), source.source());
    }
    return opened;
  }

  private Definition readIndex(DefinitionRow row) {
    Map<String, Analyser> analysers = new HashMap<>();
    if (!row.needs().isEmpty()) {
      for (DefinitionReader.Part part : reader.parts(row.file(), row.needs())) {
        Definition analyser = reader.read(part, Map.of());
        analysers.put(part.name(), ((Definition.OfAnalyser) analyser.content()).analyser());
      }
    }
    return reader.read(reader.parts(row.file(), row.text()).getFirst(), analysers);
  }

  private List<EndpointDefinition> endpointVersions(String name) {
    return definitions.versions("endpoint", name).stream()
        .limit(ENDPOINT_VERSIONS_KEPT)
        .map(row -> reader.read(reader.parts(row.file(), row.text()).getFirst(), Map.of()))
        .map(definition -> ((Definition.OfEndpoint) definition.content()).endpoint())
        .toList();
  }

  private Editions editions(String index) {
    return new Editions(index, indexFolder.resolve(index), id, editionStore, quarantine, clock);
  }

  private static String identity(IndexDefinition index, Definition source) {
    return index.text() + "\n" + index.source() + "\n" + source.text();
  }

  /** Ends all feeds, committing what they have applied. */
  @PreDestroy
  void stop() {
    running.indexes().values().forEach(index -> index.editions().close());
  }

  /**
   * Applies definitions: all of them, or none.
   *
   * @param mayPrepare whether what they need in databases may be made there
   * @throws DefinitionException with every problem that was found
   */
  public synchronized List<Applied> apply(List<DefinitionFile> files, boolean mayPrepare) {
    Plan plan = new Plan(files, mayPrepare);
    transaction.executeWithoutResult(status -> plan.toStore.forEach(definitions::insert));
    return plan.carryOut();
  }

  /**
   * Removes a definition, and with an index everything that was built of it.
   *
   * @param kind source, analyser, index or endpoint
   * @throws ProblemException if there is none, or another definition needs it
   */
  public synchronized void remove(String kind, String name) {
    Running now = running;
    Map<String, RunningSource> sources = new HashMap<>(now.sources());
    Map<String, RunningAnalyser> analysers = new HashMap<>(now.analysers());
    Map<String, RunningIndex> indexes = new HashMap<>(now.indexes());
    Map<String, Endpoint> endpoints = new HashMap<>(now.endpoints());
    Object found =
        switch (kind) {
          case "source" -> sources.remove(name);
          case "analyser" -> analysers.remove(name);
          case "index" -> indexes.remove(name);
          case "endpoint" -> endpoints.remove(name);
          default -> null;
        };
    if (found == null) {
      throw ProblemException.notFound(
          "unknown-definition", "there is no %s '%s'".formatted(kind, name), null);
    }
    List<String> users = new ArrayList<>();
    indexes.forEach(
        (index, of) -> {
          if (kind.equals("source") && of.index().source().equals(name)
              || kind.equals("analyser") && usesAnalyser(of, name)) {
            users.add("index '" + index + "'");
          }
        });
    endpoints.forEach(
        (endpoint, of) -> {
          if (kind.equals("index") && of.newest().index().equals(name)) {
            users.add("endpoint '" + endpoint + "'");
          }
        });
    if (!users.isEmpty()) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "definition-in-use",
          "%s '%s' is needed by %s; remove that first"
              .formatted(kind, name, String.join(", ", users)),
          null);
    }
    definitions.remove(kind, name);
    running = new Running(sources, analysers, indexes, endpoints);
    if (found instanceof RunningIndex index) {
      index.editions().discard();
    }
  }

  private static boolean usesAnalyser(RunningIndex index, String name) {
    return index.definition().content() instanceof Definition.OfIndex of
        && of.analysers().contains(name);
  }

  /** The running index of that name, or null. */
  @Nullable RunningIndex index(String name) {
    return running.indexes().get(name);
  }

  /** Everything that runs. */
  Running running() {
    return running;
  }

  /** Definitions that are being applied: read, checked, and what is to be done. */
  private final class Plan {
    private final List<DefinitionProblem> problems = new ArrayList<>();
    private final Map<String, RunningSource> sources = new TreeMap<>(running.sources());
    private final Map<String, RunningAnalyser> analysers = new TreeMap<>(running.analysers());
    private final Map<String, RunningIndex> indexes = new TreeMap<>(running.indexes());
    private final Map<String, Endpoint> endpoints = new TreeMap<>(running.endpoints());
    private final List<RunningIndex> toBuild = new ArrayList<>();
    private final List<Applied> applied = new ArrayList<>();
    private final boolean mayPrepare;
    final List<DefinitionRow> toStore = new ArrayList<>();

    Plan(List<DefinitionFile> files, boolean mayPrepare) {
      this.mayPrepare = mayPrepare;
      Map<String, List<DefinitionReader.Part>> byKind = new LinkedHashMap<>();
      for (DefinitionFile file : files) {
        collect(
            () ->
                reader
                    .parts(file.name(), file.text())
                    .forEach(
                        part ->
                            byKind
                                .computeIfAbsent(part.kind(), kind -> new ArrayList<>())
                                .add(part)));
      }
      refuseDoubles(byKind.values());
      throwIfProblems();
      byKind.getOrDefault("source", List.of()).forEach(part -> collect(() -> source(part)));
      byKind.getOrDefault("analyser", List.of()).forEach(part -> collect(() -> analyser(part)));
      byKind.getOrDefault("index", List.of()).forEach(part -> collect(() -> index(part)));
      throwIfProblems();
      List<String> named =
          byKind.getOrDefault("index", List.of()).stream()
              .map(DefinitionReader.Part::name)
              .toList();
      running.indexes().keySet().stream()
          .filter(name -> !named.contains(name))
          .forEach(name -> collect(() -> indexAgain(name)));
      byKind.getOrDefault("endpoint", List.of()).forEach(part -> collect(() -> endpoint(part)));
      throwIfProblems();
      endpoints.keySet().forEach(name -> collect(() -> untouchedEndpoint(name)));
      toBuild.forEach(index -> collect(() -> checkDatabase(index)));
      throwIfProblems();
    }

    private void collect(Runnable work) {
      try {
        work.run();
      } catch (DefinitionException e) {
        problems.addAll(e.problems());
      }
    }

    private void throwIfProblems() {
      if (!problems.isEmpty()) {
        throw new DefinitionException(problems);
      }
    }

    private void refuseDoubles(Collection<List<DefinitionReader.Part>> kinds) {
      for (List<DefinitionReader.Part> parts : kinds) {
        Map<String, DefinitionReader.Part> seen = new HashMap<>();
        for (DefinitionReader.Part part : parts) {
          DefinitionReader.Part before = seen.put(part.name(), part);
          if (before != null) {
            problems.add(
                new DefinitionProblem(
                    part.file(),
                    part.node().getStartMark().orElseThrow().getLine() + 1,
                    1,
                    part.kind(),
                    "'%s' is defined twice, also in %s".formatted(part.name(), before.file()),
                    null));
          }
        }
      }
    }

    private void source(DefinitionReader.Part part) {
      Definition definition = reader.read(part, Map.of());
      RunningSource before = sources.get(part.name());
      int version = note(part, before == null ? 0 : before.version(), before, "");
      if (definition.content() instanceof Definition.OfSource of) {
        sources.put(
            part.name(), new RunningSource(definition, version, Sources.open(of.source(), pushes)));
      }
    }

    private void analyser(DefinitionReader.Part part) {
      Definition definition = reader.read(part, Map.of());
      RunningAnalyser before = analysers.get(part.name());
      int version = note(part, before == null ? 0 : before.version(), before, "");
      if (definition.content() instanceof Definition.OfAnalyser of) {
        analysers.put(part.name(), new RunningAnalyser(definition, version, of.analyser()));
      }
    }

    /** Writes down what became of a definition; its version from now on. */
    private int note(
        DefinitionReader.Part part, int versionBefore, @Nullable Object before, String needs) {
      DefinitionRow old =
          before == null ? null : definitions.version(part.kind(), part.name(), versionBefore);
      boolean same = old != null && old.text().equals(part.text()) && old.needs().equals(needs);
      int version = same ? versionBefore : versionBefore + 1;
      if (!same) {
        toStore.add(
            new DefinitionRow(
                part.kind(),
                part.name(),
                version,
                part.file(),
                part.text(),
                needs,
                clock.instant().toString()));
      }
      applied.add(
          new Applied(
              part.kind(),
              part.name(),
              same ? "same" : before == null ? "new" : "changed",
              version,
              null));
      return version;
    }

    private Map<String, Analyser> analysersByName() {
      Map<String, Analyser> byName = new HashMap<>();
      analysers.forEach((name, analyser) -> byName.put(name, analyser.analyser()));
      return byName;
    }

    private void index(DefinitionReader.Part part) {
      Definition definition = reader.read(part, analysersByName());
      Definition.OfIndex content = (Definition.OfIndex) definition.content();
      RunningSource source = sources.get(content.index().source());
      if (source == null) {
        throw new DefinitionException(
            List.of(
                definition.problem(
                    List.of("source"),
                    "there is no source '" + content.index().source() + "'",
                    NearestName.to(content.index().source(), sources.keySet()))));
      }
      StringBuilder needs = new StringBuilder();
      for (String name : content.analysers()) {
        RunningAnalyser needed = analysers.get(name);
        if (needed != null) {
          needs.append("---\n").append(needed.definition().text());
        }
      }
      RunningIndex before = indexes.get(part.name());
      int version = note(part, before == null ? 0 : before.version(), before, needs.toString());
      String identity = identity(content.index(), source.definition());
      RunningIndex now =
          new RunningIndex(
              definition,
              version,
              content.index(),
              identity,
              before == null ? editions(part.name()) : before.editions());
      indexes.put(part.name(), now);
      if (before == null || version != before.version() || !identity.equals(before.identity())) {
        toBuild.add(now);
      }
    }

    /** An index that was not given may be affected by an analyser or source that was. */
    private void indexAgain(String name) {
      RunningIndex before = running.indexes().get(name);
      if (before == null) {
        return;
      }
      Definition old = before.definition();
      index(reader.parts(old.file(), old.text()).getFirst());
      if (applied.getLast().change().equals("same") && !toBuild.contains(indexes.get(name))) {
        applied.removeLast();
      }
    }

    private void endpoint(DefinitionReader.Part part) {
      Definition definition = reader.read(part, Map.of());
      EndpointDefinition content = ((Definition.OfEndpoint) definition.content()).endpoint();
      RunningIndex index = indexes.get(content.index());
      if (index == null) {
        throw new DefinitionException(
            List.of(
                definition.problem(
                    List.of("index"),
                    "there is no index '" + content.index() + "'",
                    NearestName.to(content.index(), indexes.keySet()))));
      }
      try {
        Endpoint.fit(content, index.index().schema());
      } catch (InvalidDefinitionException e) {
        throw new DefinitionException(List.of(definition.problem(e)));
      }
      Endpoint before = endpoints.get(part.name());
      int version = note(part, before == null ? 0 : before.version(), before, "");
      if (before == null || version != before.version()) {
        List<EndpointDefinition> versions = new ArrayList<>(List.of(content));
        versions.addAll(before == null ? List.of() : endpointVersions(part.name()));
        endpoints.put(
            part.name(),
            new Endpoint(
                versions.subList(0, Math.min(versions.size(), ENDPOINT_VERSIONS_KEPT)), version));
      }
    }

    /** An endpoint that was not given must still fit the index that it is about. */
    private void untouchedEndpoint(String name) {
      Endpoint endpoint = endpoints.get(name);
      RunningIndex index = endpoint == null ? null : indexes.get(endpoint.newest().index());
      if (endpoint == null || index == null) {
        return;
      }
      try {
        Endpoint.fit(endpoint.newest(), index.index().schema());
      } catch (InvalidDefinitionException e) {
        problems.add(
            index
                .definition()
                .problem(
                    List.of("fields"),
                    "endpoint '%s' would no longer work: %s: %s"
                        .formatted(name, String.join(".", e.path()), e.getMessage()),
                    null));
      }
    }

    private void checkDatabase(RunningIndex index) {
      RunningSource source = sources.get(index.index().source());
      if (source == null) {
        return;
      }
      Definition definition = index.definition();
      try {
        source.source().check(index.index());
        tryReading(index.index(), source.source());
        if (mayPrepare) {
          source.source().make(index.index().shape().watchedColumns());
        }
        source.source().prepare(index.index().shape().watchedColumns());
      } catch (InvalidDefinitionException e) {
        problems.add(definition.problem(e));
      } catch (SourceUnavailableException e) {
        problems.add(definition.problem(List.of("source"), String.valueOf(e.getMessage()), null));
      } catch (NotPreparedException e) {
        problems.add(definition.problem(List.of("source"), String.valueOf(e.getMessage()), null));
      }
    }

    /**
     * Conditions and expressions are SQL of the database; only it can say whether they are right.
     */
    private void tryReading(IndexDefinition index, Source source)
        throws SourceUnavailableException {
      try (RecordReader records = source.reader(index.shape(), Map.of())) {
        records.readAfter(null, 1);
      } catch (SourceUnavailableException e) {
        throw new InvalidDefinitionException(
            List.of("record"), "the database refuses this: " + e.getMessage(), null);
      }
      for (FieldDefinition field : index.fields()) {
        String sql = field.sql();
        if (sql != null) {
          String name = field.field().name();
          try (RecordReader records = source.reader(index.shape(), Map.of(name, sql))) {
            records.readAfter(null, 1);
          } catch (SourceUnavailableException e) {
            throw new InvalidDefinitionException(
                List.of("fields", name, "sql"),
                "the database refuses this: " + e.getMessage(),
                null);
          }
        }
      }
    }

    List<Applied> carryOut() {
      running = new Running(sources, analysers, indexes, endpoints);
      for (RunningIndex index : toBuild) {
        RunningSource source = sources.get(index.index().source());
        if (source == null) {
          continue;
        }
        try {
          int edition = index.editions().build(index.index(), index.version(), source.source());
          applied.replaceAll(
              a ->
                  a.kind().equals("index") && a.name().equals(index.index().name())
                      ? new Applied(
                          a.kind(),
                          a.name(),
                          a.change().equals("same") ? "changed" : a.change(),
                          a.version(),
                          edition)
                      : a);
        } catch (IOException e) {
          throw new UncheckedIOException(e);
        }
      }
      return applied;
    }
  }
}
