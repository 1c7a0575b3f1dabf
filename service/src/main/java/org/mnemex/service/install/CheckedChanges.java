package org.mnemex.service.install;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.error.UnknownFieldException;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.service.definition.CurationDefinition;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.PhrasesDefinition;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.endpoint.CompletionFit;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.endpoint.EndpointFit;
import org.mnemex.service.endpoint.UnfitEndpointException;
import org.mnemex.service.install.RunningDefinition.RunningAnalyser;
import org.mnemex.service.install.RunningDefinition.RunningCuration;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningPhrases;
import org.mnemex.service.install.RunningDefinition.RunningScorecard;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.install.RunningDefinition.RunningSynonyms;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.definition.ExpressionCheck;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

/**
 * Definitions that were read, checked against each other and compared with what runs, without
 * asking databases or changing anything.
 */
final class CheckedChanges {
  private final InstallationParts parts;
  private final Running before;
  private final Map<String, Installation.Failure> failures;
  private final ParsedChanges parsed;
  private final Wish wish;
  private final List<DefinitionProblem> problems = new ArrayList<>();
  private final Set<DefinitionId> broken = new TreeSet<>();
  private final Map<String, IndexStep> steps = new TreeMap<>();
  private final List<Applied> applied = new ArrayList<>();
  private final List<DefinitionRow> toStore = new ArrayList<>();
  private final Map<String, String> renamed = new TreeMap<>();
  private Running after;

  /**
   * Who applies the changes, and how.
   *
   * @param author empty if unknown
   * @param hold whether new editions wait for approval when they are complete
   */
  record Wish(String author, boolean hold) {
    static final Wish NONE = new Wish("", false);
  }

  /**
   * Reads, checks and compares.
   *
   * @param before what runs
   * @param failures indexes that could not be started, and cannot be compared with
   * @throws DefinitionException with every problem that was found
   */
  CheckedChanges(
      InstallationParts parts,
      Running before,
      Map<String, Installation.Failure> failures,
      ParsedChanges parsed,
      Wish wish) {
    this.parts = parts;
    this.before = before;
    this.after = before;
    this.failures = failures;
    this.parsed = parsed;
    this.wish = wish;
    problems.addAll(parsed.fileProblems());
    parsed.problems().forEach(this::refuse);
    each(DefinitionKind.SOURCE, this::source);
    each(DefinitionKind.ANALYSER, this::analyser);
    each(DefinitionKind.SYNONYMS, this::synonyms);
    each(DefinitionKind.INDEX, this::index);
    before.indexes().keySet().stream()
        .filter(name -> !given(name) && !renamed.containsKey(name))
        .forEach(name -> collect(id(DefinitionKind.INDEX, name), () -> indexAgain(name)));
    each(DefinitionKind.PHRASES, this::phrases);
    each(DefinitionKind.ENDPOINT, this::endpoint);
    each(DefinitionKind.CURATION, this::curation);
    each(DefinitionKind.SCORECARD, this::scorecard);
    after
        .endpoints()
        .values()
        .forEach(endpoint -> collect(endpoint.id(), () -> untouched(endpoint)));
    after
        .curations()
        .values()
        .forEach(curation -> collect(curation.id(), () -> checkLifts(curation)));
    after.phrases().values().forEach(phrases -> collect(phrases.id(), () -> checkField(phrases)));
    if (!problems.isEmpty()) {
      throw new DefinitionException(problems);
    }
  }

  /** What runs when the changes are applied. */
  Running after() {
    return after;
  }

  /** What happens to each definition. */
  List<Applied> applied() {
    return List.copyOf(applied);
  }

  /** Versions to be recorded. */
  List<DefinitionRow> toStore() {
    return List.copyOf(toStore);
  }

  /** Renamed indexes: new name by former name. */
  Map<String, String> renamed() {
    return renamed;
  }

  /** Steps by name of the index. */
  Map<String, IndexStep> steps() {
    return steps;
  }

  private static DefinitionId id(DefinitionKind kind, String name) {
    return new DefinitionId(kind, name);
  }

  private boolean given(String index) {
    return parsed.parts().containsKey(id(DefinitionKind.INDEX, index));
  }

  private void each(DefinitionKind kind, Function<DefinitionPart, RunningDefinition> read) {
    for (DefinitionPart part : parsed.wellFormed(kind)) {
      collect(id(kind, part.name()), () -> add(read.apply(part)));
    }
  }

  private void add(RunningDefinition definition) {
    after = after.with(definition);
  }

  /** Skips what refers to a definition with problems: those come first. */
  private static final class RefersToBroken extends RuntimeException {
    private static final long serialVersionUID = 1L;
  }

  private void collect(DefinitionId id, Runnable work) {
    try {
      work.run();
    } catch (DefinitionException e) {
      refuse(id, e.problems());
    } catch (RefersToBroken e) {
      broken.add(id);
    }
  }

  private void refuse(DefinitionId id, List<DefinitionProblem> found) {
    problems.addAll(found);
    broken.add(id);
  }

  /**
   * Looks up a definition that another refers to.
   *
   * @param key where it says so
   */
  private <T> T need(
      Definition from, String key, DefinitionKind kind, String name, Map<String, T> there) {
    if (broken.contains(id(kind, name))) {
      throw new RefersToBroken();
    }
    T found = there.get(name);
    if (found == null) {
      throw refused(
          from,
          key,
          "there is no %s '%s'".formatted(kind, name),
          NearestName.to(name, there.keySet()));
    }
    return found;
  }

  private static DefinitionException refused(
      Definition definition, String key, String detail, @Nullable String suggestion) {
    return new DefinitionException(List.of(definition.problem(List.of(key), detail, suggestion)));
  }

  private RunningSource source(DefinitionPart part) {
    Definition definition = read(part);
    RunningSource former = after.sources().get(part.name());
    int version = note(part, former, "", "");
    // All that read a database share what reads its log, as long as it is the same database.
    return former != null && former.definition().content().equals(definition.content())
        ? new RunningSource(definition, version, former.source())
        : parts.source(definition, version);
  }

  private RunningAnalyser analyser(DefinitionPart part) {
    Definition definition = read(part);
    int version = note(part, after.analysers().get(part.name()), "", "");
    return InstallationParts.analyser(definition, version);
  }

  private RunningSynonyms synonyms(DefinitionPart part) {
    Definition definition = read(part);
    int version = note(part, after.synonyms().get(part.name()), "", "");
    return InstallationParts.synonyms(definition, version);
  }

  private Definition read(DefinitionPart part) {
    return parts.reader().read(part, Vocabulary.BUILT_IN);
  }

  /** Notes what happens to a definition; returns its new version. */
  private int note(
      DefinitionPart part, @Nullable RunningDefinition former, String needs, String keptAs) {
    int versionBefore = former == null ? 0 : former.version();
    DefinitionRow old =
        former == null
            ? null
            : parts.definitions().version(part.kind(), former.id().name(), versionBefore);
    boolean same =
        old != null
            && former.id().name().equals(part.name())
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
              wish.author(),
              parts.clock().instant().toString(),
              keptAs,
              wish.hold()));
    }
    Applied.Change change =
        same ? Applied.Change.SAME : former == null ? Applied.Change.NEW : Applied.Change.CHANGED;
    applied.add(new Applied(part.kind(), part.name(), change, version, null, null));
    return version;
  }

  private RunningIndex index(DefinitionPart part) {
    Definition definition = parts.reader().read(part, after.vocabulary());
    Installation.Failure failure = failures.get(part.name());
    if (failure != null) {
      throw refused(
          definition,
          "index",
          "index '%s' is not running, so no edition can be built: %s"
              .formatted(part.name(), failure.why()),
          null);
    }
    Definition.OfIndex content = (Definition.OfIndex) definition.content();
    RunningSource source =
        need(
            definition, "source", DefinitionKind.SOURCE, content.index().source(), after.sources());
    StringBuilder needs = new StringBuilder();
    for (DefinitionId needed : content.uses()) {
      RunningDefinition there = after.get(needed);
      if (there != null && needed.kind() != DefinitionKind.SOURCE) {
        needs.append("---\n").append(there.definition().text());
      }
    }
    needs.append("---\n").append(source.definition().text());
    RunningIndex former = former(part, definition, content);
    String keptAs = former == null ? parts.newKeptAs(part.name()) : former.index().keptAs();
    int version = note(part, former, needs.toString(), keptAs);
    RunningIndex now =
        new RunningIndex(
            definition,
            version,
            content.index().called(part.name(), keptAs),
            former == null ? parts.editions(part.name(), keptAs) : former.editions());
    if (former == null || version != former.version()) {
      List<DefinitionProblem> found =
          ExpressionCheck.problems(now.index()).stream().map(definition::problem).toList();
      if (!found.isEmpty()) {
        throw new DefinitionException(found);
      }
      steps.put(part.name(), IndexStep.of(now, source.definition().text(), parts));
    }
    return now;
  }

  /** The running index, by its current or former name. */
  private @Nullable RunningIndex former(
      DefinitionPart part, Definition definition, Definition.OfIndex content) {
    RunningIndex same = after.indexes().get(part.name());
    String was = content.was();
    RunningIndex former = was == null ? null : before.indexes().get(was);
    if (same != null || was == null || former == null) {
      // Renamed already, or never here.
      return same;
    }
    if (given(was) || !after.indexes().containsKey(was)) {
      throw refused(
          definition,
          "was",
          "index '%s' is also defined here, or renamed twice; rename it first, then define another one"
              .formatted(was),
          null);
    }
    after = after.without(id(DefinitionKind.INDEX, was));
    renamed.put(was, part.name());
    return former;
  }

  /** A changed analyser, synonym or source may affect indexes that are not among the files. */
  private void indexAgain(String name) {
    RunningIndex index = before.index(name);
    if (index.uses().stream().anyMatch(broken::contains)) {
      throw new RefersToBroken();
    }
    add(index(parts.part(index.definition())));
    if (applied.getLast().change() == Applied.Change.SAME) {
      applied.removeLast();
    }
  }

  private RunningPhrases phrases(DefinitionPart part) {
    Definition definition = read(part);
    PhrasesDefinition content = ((Definition.OfPhrases) definition.content()).phrases();
    if (content.from() != null) {
      need(definition, "index", DefinitionKind.INDEX, content.from().index(), after.indexes());
    }
    int version = note(part, after.phrases().get(part.name()), "", "");
    return new RunningPhrases(definition, version, content);
  }

  /** The index that phrases come from must have their field, also after it has changed. */
  private void checkField(RunningPhrases running) {
    PhrasesDefinition.FromIndex from = running.phrases().from();
    RunningIndex index = from == null ? null : after.indexes().get(from.index());
    if (from == null || index == null || running.uses().stream().anyMatch(broken::contains)) {
      return;
    }
    try {
      CompletionFit.check(from, index.index().schema());
    } catch (InvalidDefinitionException e) {
      throw new DefinitionException(List.of(running.definition().problem(e)));
    }
  }

  private RunningEndpoint endpoint(DefinitionPart part) {
    Definition definition = read(part);
    EndpointDefinition content = ((Definition.OfEndpoint) definition.content()).endpoint();
    RunningIndex index =
        need(definition, "index", DefinitionKind.INDEX, content.index(), after.indexes());
    for (String name : content.phrases()) {
      need(definition, "completions", DefinitionKind.PHRASES, name, after.phrases());
    }
    try {
      EndpointFit.of(content, index.index().schema());
    } catch (UnfitEndpointException e) {
      throw new DefinitionException(e.reasons().stream().map(definition::problem).toList());
    }
    RunningEndpoint former = after.endpoints().get(part.name());
    int version = note(part, former, "", "");
    if (former != null && version == former.version()) {
      return former;
    }
    List<EndpointDefinition> versions = new ArrayList<>(List.of(content));
    versions.addAll(former == null ? List.of() : parts.endpointVersions(part.name()));
    int kept = Math.min(versions.size(), InstallationParts.ENDPOINT_VERSIONS_KEPT);
    return new RunningEndpoint(
        definition, version, new Endpoint(versions.subList(0, kept), version));
  }

  private RunningCuration curation(DefinitionPart part) {
    Definition definition = read(part);
    CurationDefinition content = ((Definition.OfCuration) definition.content()).curation();
    need(definition, "endpoint", DefinitionKind.ENDPOINT, content.endpoint(), after.endpoints());
    int version = note(part, after.curations().get(part.name()), "", "");
    return new RunningCuration(definition, version, content);
  }

  /** The filters of a curation must fit the index of its endpoint, also after that has changed. */
  private void checkLifts(RunningCuration running) {
    CurationDefinition curation = running.curation();
    RunningEndpoint endpoint = after.endpoints().get(curation.endpoint());
    RunningIndex index =
        endpoint == null ? null : after.indexes().get(endpoint.endpoint().newest().index());
    if (index == null || running.uses().stream().anyMatch(broken::contains)) {
      return;
    }
    for (CurationDefinition.Rule rule : curation.rules()) {
      if (rule.lift() != null) {
        try {
          FilterText.parse(rule.lift().where(), index.index().schema());
        } catch (FilterSyntaxException | UnknownFieldException | QueryRefusedException e) {
          throw new DefinitionException(
              List.of(
                  running
                      .definition()
                      .problem(
                          List.of("rules", rule.name(), "lift", "where"),
                          String.valueOf(e.getMessage()),
                          null)));
        }
      }
    }
  }

  private RunningScorecard scorecard(DefinitionPart part) {
    Definition definition = read(part);
    Definition.OfScorecard content = (Definition.OfScorecard) definition.content();
    need(
        definition,
        "endpoint",
        DefinitionKind.ENDPOINT,
        content.scorecard().endpoint(),
        after.endpoints());
    int version = note(part, after.scorecards().get(part.name()), "", "");
    return new RunningScorecard(definition, version, content.scorecard());
  }

  /** Endpoints that are not among the files must still fit their indexes. */
  private void untouched(RunningEndpoint running) {
    EndpointDefinition endpoint = running.endpoint().newest();
    String about = endpoint.index();
    if (broken.contains(id(DefinitionKind.INDEX, about)) || broken.contains(running.id())) {
      return;
    }
    RunningIndex renamedIndex = after.indexes().get(renamed.getOrDefault(about, ""));
    RunningIndex index = after.indexes().get(about);
    if (index == null && renamedIndex != null) {
      throw refused(
          renamedIndex.definition(),
          "was",
          "endpoint '%s' uses index '%s', which is now called '%s'; change that and apply both together"
              .formatted(endpoint.name(), about, renamed.get(about)),
          null);
    }
    if (index == null) {
      return;
    }
    try {
      EndpointFit.of(endpoint, index.index().schema());
    } catch (UnfitEndpointException e) {
      throw new DefinitionException(
          e.reasons().stream().map(reason -> noLonger(endpoint, index, reason)).toList());
    }
  }

  private static DefinitionProblem noLonger(
      EndpointDefinition endpoint, RunningIndex index, InvalidDefinitionException reason) {
    return index
        .definition()
        .problem(
            List.of("fields"),
            "endpoint '%s' would no longer work: %s: %s%s"
                .formatted(
                    endpoint.name(),
                    String.join(".", reason.path()),
                    reason.getMessage(),
                    nameNow(String.valueOf(reason.getMessage()), index.index())),
            null);
  }

  private static String nameNow(String message, IndexDefinition index) {
    return index.renamed().entrySet().stream()
        .filter(renamed -> message.contains("'" + renamed.getValue() + "'"))
        .map(renamed -> "; it is called '%s' now".formatted(renamed.getKey()))
        .findFirst()
        .orElse("");
  }
}
