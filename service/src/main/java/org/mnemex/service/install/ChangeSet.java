package org.mnemex.service.install;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionException;
import org.mnemex.service.definition.DefinitionProblem;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.ScorecardDefinition;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.install.Running.RunningAnalyser;
import org.mnemex.service.install.Running.RunningIndex;
import org.mnemex.service.install.Running.RunningSource;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.definition.ExpressionCheck;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

/**
 * Definitions that may be applied: read, checked against each other and the databases, and compared
 * with what runs. Making one changes nothing but what databases need, and that only if it may.
 */
final class ChangeSet {
  private final InstallationParts parts;
  private final Map<String, Installation.Failure> failures;
  private final Running running;
  private final String author;
  private final boolean hold;
  private final List<DefinitionProblem> problems = new ArrayList<>();
  private final Map<String, RunningSource> sources;
  private final Map<String, RunningAnalyser> analysers;
  private final Map<String, RunningIndex> indexes;
  private final Map<String, Endpoint> endpoints;
  private final Map<String, RunningScorecard> scorecards;
  private final Map<String, IndexStep> steps = new TreeMap<>();
  private final List<Applied> applied = new ArrayList<>();
  private final List<DefinitionRow> toStore = new ArrayList<>();
  private final Map<String, String> renamed = new TreeMap<>();
  private final Set<String> given = new HashSet<>();

  /**
   * Reads, checks and compares.
   *
   * @param failures indexes that could not be started, so that nothing can be compared with them
   * @param preparing what is done about what is missing in databases
   * @param author who wants them; empty if that is not known
   * @param hold whether new editions wait for approval when they are complete
   * @throws DefinitionException with every problem that was found
   */
  ChangeSet(
      InstallationParts parts,
      Running running,
      Map<String, Installation.Failure> failures,
      List<DefinitionFile> files,
      DatabaseCheck.Preparing preparing,
      String author,
      boolean hold) {
    this.parts = parts;
    this.failures = failures;
    this.author = author;
    this.hold = hold;
    this.running = running;
    this.sources = new TreeMap<>(running.sources());
    this.analysers = new TreeMap<>(running.analysers());
    this.indexes = new TreeMap<>(running.indexes());
    this.endpoints = new TreeMap<>(running.endpoints());
    this.scorecards = new TreeMap<>(running.scorecards());
    DefinitionReader reader = parts.reader();
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
    byKind.getOrDefault("index", List.of()).forEach(part -> given.add(part.name()));
    byKind.getOrDefault("index", List.of()).forEach(part -> collect(() -> index(part)));
    throwIfProblems();
    running.indexes().keySet().stream()
        .filter(name -> !given.contains(name) && !renamed.containsKey(name))
        .forEach(name -> collect(() -> indexAgain(name)));
    byKind.getOrDefault("endpoint", List.of()).forEach(part -> collect(() -> endpoint(part)));
    throwIfProblems();
    byKind.getOrDefault("scorecard", List.of()).forEach(part -> collect(() -> scorecard(part)));
    throwIfProblems();
    endpoints.keySet().forEach(name -> collect(() -> untouchedEndpoint(name)));
    DatabaseCheck check = new DatabaseCheck(preparing);
    for (IndexStep step : steps.values()) {
      RunningSource source = sources.get(step.index().index().source());
      if (source != null && step.action() == IndexStep.Action.BUILD) {
        problems.addAll(check.problems(step.index(), source.source(), step.needsDatabase()));
      }
    }
    throwIfProblems();
  }

  /** What runs when it is applied. */
  Running after() {
    return new Running(sources, analysers, indexes, endpoints, scorecards);
  }

  /** What became of each definition. */
  List<Applied> applied() {
    return List.copyOf(applied);
  }

  /** Versions to be written down. */
  List<DefinitionRow> toStore() {
    return List.copyOf(toStore);
  }

  /** The indexes that get another name: the new one by the former. */
  Map<String, String> renamed() {
    return renamed;
  }

  /** What has to be done to indexes, by name. */
  Map<String, IndexStep> steps() {
    return steps;
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
    Definition definition = parts.reader().read(part, Map.of());
    RunningSource before = sources.get(part.name());
    int version = note(part, part.name(), before == null ? 0 : before.version(), before, "", "");
    if (definition.content() instanceof Definition.OfSource of) {
      sources.put(
          part.name(),
          new RunningSource(definition, version, OpenSources.open(of.source(), parts.pushes())));
    }
  }

  private void analyser(DefinitionReader.Part part) {
    Definition definition = parts.reader().read(part, Map.of());
    RunningAnalyser before = analysers.get(part.name());
    int version = note(part, part.name(), before == null ? 0 : before.version(), before, "", "");
    if (definition.content() instanceof Definition.OfAnalyser of) {
      analysers.put(part.name(), new RunningAnalyser(definition, version, of.analyser()));
    }
  }

  /** Writes down what became of a definition; its version from now on. */
  private int note(
      DefinitionReader.Part part,
      String nameBefore,
      int versionBefore,
      @Nullable Object before,
      String needs,
      String keptAs) {
    DefinitionRow old =
        before == null ? null : parts.definitions().version(part.kind(), nameBefore, versionBefore);
    boolean same =
        old != null
            && nameBefore.equals(part.name())
            && old.text().equals(part.text())
            && old.needs().equals(needs);
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
              author,
              parts.clock().instant().toString(),
              keptAs,
              hold));
    }
    applied.add(
        new Applied(
            part.kind(),
            part.name(),
            same ? "same" : before == null ? "new" : "changed",
            version,
            null,
            null));
    return version;
  }

  private Map<String, Analyser> analysersByName() {
    Map<String, Analyser> byName = new HashMap<>();
    analysers.forEach((name, analyser) -> byName.put(name, analyser.analyser()));
    return byName;
  }

  private void index(DefinitionReader.Part part) {
    Definition definition = parts.reader().read(part, analysersByName());
    Installation.Failure failure = failures.get(part.name());
    if (failure != null) {
      throw new DefinitionException(
          List.of(
              definition.problem(
                  List.of("index"),
                  "index '%s' is not running, so nothing can be built beside it: %s"
                      .formatted(part.name(), failure.why()),
                  null)));
    }
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
    needs.append("---\n").append(source.definition().text());
    RunningIndex before = before(part, definition, content);
    String keptAs = before == null ? parts.newKeptAs(part.name()) : before.index().keptAs();
    String nameBefore = before == null ? part.name() : before.index().name();
    int version =
        note(
            part,
            nameBefore,
            before == null ? 0 : before.version(),
            before,
            needs.toString(),
            keptAs);
    RunningIndex now =
        new RunningIndex(
            definition,
            version,
            content.index().called(part.name(), keptAs),
            before == null ? parts.editions(part.name(), keptAs) : before.editions());
    if (before == null || version != before.version()) {
      List<DefinitionProblem> found =
          ExpressionCheck.problems(now.index()).stream().map(definition::problem).toList();
      if (!found.isEmpty()) {
        throw new DefinitionException(found);
      }
    }
    indexes.put(part.name(), now);
    if (before == null || version != before.version()) {
      steps.put(part.name(), IndexStep.of(now, source.definition().text(), parts));
    }
  }

  /** The index as it runs, perhaps under the name that it was to be called by no more. */
  private @Nullable RunningIndex before(
      DefinitionReader.Part part, Definition definition, Definition.OfIndex content) {
    RunningIndex before = indexes.get(part.name());
    String was = content.was();
    RunningIndex former = was == null ? null : running.indexes().get(was);
    if (before != null || was == null || former == null) {
      // Renamed already, or never here.
      return before;
    }
    if (given.contains(was) || !indexes.containsKey(was)) {
      throw new DefinitionException(
          List.of(
              definition.problem(
                  List.of("was"),
                  "index '%s' is given as well, or renamed twice; rename it first, then define another one"
                      .formatted(was),
                  null)));
    }
    indexes.remove(was);
    renamed.put(was, part.name());
    return former;
  }

  /** An index that was not given may be affected by an analyser or source that was. */
  private void indexAgain(String name) {
    RunningIndex before = running.indexes().get(name);
    if (before == null) {
      return;
    }
    Definition old = before.definition();
    index(parts.reader().parts(old.file(), old.text()).getFirst());
    if (applied.getLast().change().equals("same")) {
      applied.removeLast();
    }
  }

  private void endpoint(DefinitionReader.Part part) {
    Definition definition = parts.reader().read(part, Map.of());
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
    int version = note(part, part.name(), before == null ? 0 : before.version(), before, "", "");
    if (before == null || version != before.version()) {
      List<EndpointDefinition> versions = new ArrayList<>(List.of(content));
      versions.addAll(before == null ? List.of() : parts.endpointVersions(part.name()));
      endpoints.put(
          part.name(),
          new Endpoint(
              versions.subList(
                  0, Math.min(versions.size(), InstallationParts.ENDPOINT_VERSIONS_KEPT)),
              version));
    }
  }

  private void scorecard(DefinitionReader.Part part) {
    Definition definition = parts.reader().read(part, Map.of());
    ScorecardDefinition content = ((Definition.OfScorecard) definition.content()).scorecard();
    if (!endpoints.containsKey(content.endpoint())) {
      throw new DefinitionException(
          List.of(
              definition.problem(
                  List.of("endpoint"),
                  "there is no endpoint '" + content.endpoint() + "'",
                  NearestName.to(content.endpoint(), endpoints.keySet()))));
    }
    RunningScorecard before = scorecards.get(part.name());
    int version = note(part, part.name(), before == null ? 0 : before.version(), before, "", "");
    scorecards.put(part.name(), new RunningScorecard(content, version));
  }

  private static String nameNow(String message, IndexDefinition index) {
    return index.renamed().entrySet().stream()
        .filter(renamed -> message.contains("'" + renamed.getValue() + "'"))
        .map(renamed -> "; it is called '%s' now".formatted(renamed.getKey()))
        .findFirst()
        .orElse("");
  }

  /** An endpoint that was not given must still fit the index that it is about. */
  private void untouchedEndpoint(String name) {
    Endpoint endpoint = endpoints.get(name);
    RunningIndex index = endpoint == null ? null : indexes.get(endpoint.newest().index());
    if (endpoint == null) {
      return;
    }
    String about = endpoint.newest().index();
    RunningIndex renamedIndex = indexes.get(renamed.getOrDefault(about, ""));
    if (index == null && renamedIndex != null) {
      problems.add(
          renamedIndex
              .definition()
              .problem(
                  List.of("was"),
                  "endpoint '%s' is about index '%s', which is called '%s' now; change that and apply both together"
                      .formatted(name, about, renamed.get(about)),
                  null));
    }
    if (index == null) {
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
                  "endpoint '%s' would no longer work: %s: %s%s"
                      .formatted(
                          name,
                          String.join(".", e.path()),
                          e.getMessage(),
                          nameNow(String.valueOf(e.getMessage()), index.index())),
                  null));
    }
  }
}
