package org.mnemex.service.install;

import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.text.Analyser;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.SynonymsDefinition;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.install.RunningDefinition.RunningAnalyser;
import org.mnemex.service.install.RunningDefinition.RunningCuration;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.install.RunningDefinition.RunningPhrases;
import org.mnemex.service.install.RunningDefinition.RunningScorecard;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.install.RunningDefinition.RunningSynonyms;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.edition.Builder;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.edition.PromotionCheck;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.push.PushStore;
import org.mnemex.sync.source.ReaderPositions;

/**
 * What running definitions are built with.
 *
 * @param builder this installation, as it builds editions
 * @param indexFolder where each index has its folder
 * @param positions how far the readers at each source are
 */
public record InstallationParts(
    Builder builder,
    Path indexFolder,
    DefinitionReader reader,
    DefinitionMapper definitions,
    EditionStore editionStore,
    Quarantine quarantine,
    PushStore pushes,
    PromotionCheck check,
    StoredDepartures departures,
    ReaderPositions positions,
    Clock clock) {
  /** So many versions of an endpoint are read, for editions that the newest does not fit. */
  public static final int ENDPOINT_VERSIONS_KEPT = 5;

  /** The editions of an index, none of them open yet. */
  Editions editions(String name, String keptAs) {
    return new Editions(
        name,
        keptAs,
        indexFolder.resolve(keptAs),
        builder,
        editionStore,
        quarantine,
        clock,
        check,
        departures);
  }

  /** The storage name of a new index: its own, unless a renamed index still uses it. */
  String newKeptAs(String name) {
    String keptAs = name;
    for (int i = 2; definitions.othersAreKeptAs(keptAs, name); i++) {
      keptAs = name + "-" + i;
    }
    return keptAs;
  }

  private static DefinitionPart part(DefinitionRow row) {
    return ParsedFile.parts(row.file(), row.text()).getFirst();
  }

  /** A definition as it was given. */
  DefinitionPart part(Definition definition) {
    return ParsedFile.parts(definition.file(), definition.text()).getFirst();
  }

  private Definition read(DefinitionRow row) {
    return reader.read(part(row), Vocabulary.BUILT_IN);
  }

  RunningSource source(Definition definition, int version) {
    Definition.OfSource of = (Definition.OfSource) definition.content();
    return new RunningSource(definition, version, OpenSources.open(of.source(), pushes, positions));
  }

  static RunningAnalyser analyser(Definition definition, int version) {
    Definition.OfAnalyser of = (Definition.OfAnalyser) definition.content();
    return new RunningAnalyser(definition, version, of.analyser());
  }

  static RunningSynonyms synonyms(Definition definition, int version) {
    Definition.OfSynonyms of = (Definition.OfSynonyms) definition.content();
    return new RunningSynonyms(definition, version, of.synonyms());
  }

  /** Starts recorded definitions; indexes come last, when all sources exist. */
  RunningDefinition run(DefinitionRow row) {
    Definition definition = read(row);
    return switch (definition.content()) {
      case Definition.OfSource of -> source(definition, row.version());
      case Definition.OfEndpoint of ->
          endpoint(definition, row.version(), definitions.versions(row.kind(), row.name()));
      default -> runAnywhere(definition, row.version());
    };
  }

  /** What needs nothing else to run. */
  private static RunningDefinition runAnywhere(Definition definition, int version) {
    return switch (definition.content()) {
      case Definition.OfAnalyser of -> analyser(definition, version);
      case Definition.OfSynonyms of -> synonyms(definition, version);
      case Definition.OfPhrases of -> new RunningPhrases(definition, version, of.phrases());
      case Definition.OfCuration of -> new RunningCuration(definition, version, of.curation());
      case Definition.OfScorecard of -> new RunningScorecard(definition, version, of.scorecard());
      case Definition.OfIndex of ->
          throw new IllegalArgumentException("an index is opened with its source");
      case Definition.OfSource of ->
          throw new IllegalArgumentException("a source is opened where indexes are built");
      case Definition.OfEndpoint of ->
          throw new IllegalArgumentException("an endpoint is read with its earlier versions");
    };
  }

  private RunningEndpoint endpoint(
      Definition definition, int version, List<DefinitionRow> versions) {
    return new RunningEndpoint(
        definition, version, new Endpoint(endpointVersions(versions), version));
  }

  /**
   * Reads definitions that are followed: everything but sources and indexes.
   *
   * @param rows the current version of each, and earlier ones of endpoints; the newest first
   */
  List<RunningDefinition> follow(List<DefinitionRow> rows) {
    List<RunningDefinition> running = new ArrayList<>();
    Map<DefinitionId, List<DefinitionRow>> byId = new LinkedHashMap<>();
    for (DefinitionRow row : rows) {
      byId.computeIfAbsent(new DefinitionId(row.kind(), row.name()), _ -> new ArrayList<>())
          .add(row);
    }
    for (List<DefinitionRow> versions : byId.values()) {
      DefinitionRow newest = versions.getFirst();
      Definition definition = read(newest);
      running.add(
          newest.kind() == DefinitionKind.ENDPOINT
              ? endpoint(definition, newest.version(), versions)
              : runAnywhere(definition, newest.version()));
    }
    return running;
  }

  /** Reads an index with the analysers and synonyms that were recorded with it. */
  Definition readIndex(DefinitionRow row) {
    Map<String, Analyser> analysers = new HashMap<>();
    Map<String, SynonymsDefinition> synonyms = new HashMap<>();
    for (DefinitionPart part : needs(row)) {
      if (part.kind() != DefinitionKind.SOURCE) {
        switch (reader.read(part, Vocabulary.BUILT_IN).content()) {
          case Definition.OfAnalyser of -> analysers.put(part.name(), of.analyser());
          case Definition.OfSynonyms of -> synonyms.put(part.name(), of.synonyms());
          default -> throw new IllegalStateException("an index does not need " + part.kind());
        }
      }
    }
    return reader
        .read(part(row), new Vocabulary(analysers, synonyms))
        .called(row.name(), row.keptAs());
  }

  /** The source definition that was recorded with a version of an index; empty if unknown. */
  String sourceText(String keptAs, int version) {
    DefinitionRow row = definitions.indexVersion(keptAs, version);
    return row == null
        ? ""
        : needs(row).stream()
            .filter(part -> part.kind() == DefinitionKind.SOURCE)
            .map(DefinitionPart::text)
            .findFirst()
            .orElse("");
  }

  /** The name of the source that an index was recorded with; empty if unknown. */
  static String sourceName(DefinitionRow row) {
    return needs(row).stream()
        .filter(part -> part.kind() == DefinitionKind.SOURCE)
        .map(DefinitionPart::name)
        .findFirst()
        .orElse("");
  }

  private static List<DefinitionPart> needs(DefinitionRow row) {
    return row.needs().isEmpty() ? List.of() : ParsedFile.parts(row.file(), row.needs());
  }

  /** The last versions of an endpoint, newest first. */
  List<EndpointDefinition> endpointVersions(String name) {
    return endpointVersions(definitions.versions(DefinitionKind.ENDPOINT, name));
  }

  private List<EndpointDefinition> endpointVersions(List<DefinitionRow> versions) {
    return versions.stream()
        .limit(ENDPOINT_VERSIONS_KEPT)
        .map(row -> read(row))
        .map(definition -> ((Definition.OfEndpoint) definition.content()).endpoint())
        .toList();
  }
}
