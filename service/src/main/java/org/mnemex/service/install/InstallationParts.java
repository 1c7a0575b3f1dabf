package org.mnemex.service.install;

import java.nio.file.Path;
import java.time.Clock;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.text.Analyser;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.edition.EditionStore;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.edition.PromotionCheck;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.push.PushStore;

/**
 * What running things are made with.
 *
 * @param id what tells this installation from others
 * @param indexFolder where each index has its folder
 */
public record InstallationParts(
    String id,
    Path indexFolder,
    DefinitionReader reader,
    DefinitionMapper definitions,
    EditionStore editionStore,
    Quarantine quarantine,
    PushStore pushes,
    PromotionCheck check,
    StoredDepartures departures,
    Clock clock) {
  static final int ENDPOINT_VERSIONS_KEPT = 5;

  /** The editions of an index, none of them open yet. */
  Editions editions(String name, String keptAs) {
    return new Editions(
        name,
        keptAs,
        indexFolder.resolve(keptAs),
        id,
        editionStore,
        quarantine,
        clock,
        check,
        departures);
  }

  /**
   * Under which name a new index is kept: its own, unless an index is kept there that was called so
   * before.
   */
  String newKeptAs(String name) {
    String keptAs = name;
    for (int i = 2; definitions.othersAreKeptAs(keptAs, name); i++) {
      keptAs = name + "-" + i;
    }
    return keptAs;
  }

  /** Reads an index with the analysers that it was written down with. */
  Definition readIndex(DefinitionRow row) {
    Map<String, Analyser> analysers = new HashMap<>();
    for (DefinitionReader.Part part : needs(row)) {
      if (part.kind().equals("analyser")) {
        Definition analyser = reader.read(part, Map.of());
        analysers.put(part.name(), ((Definition.OfAnalyser) analyser.content()).analyser());
      }
    }
    Definition read = reader.read(reader.parts(row.file(), row.text()).getFirst(), analysers);
    return read.called(row.name(), row.keptAs());
  }

  /** The source's definition that a version of an index was written down with; empty if unknown. */
  String sourceText(String keptAs, int version) {
    DefinitionRow row = definitions.indexVersion(keptAs, version);
    return row == null
        ? ""
        : needs(row).stream()
            .filter(part -> part.kind().equals("source"))
            .map(DefinitionReader.Part::text)
            .findFirst()
            .orElse("");
  }

  private List<DefinitionReader.Part> needs(DefinitionRow row) {
    return row.needs().isEmpty() ? List.of() : reader.parts(row.file(), row.needs());
  }

  /** The last versions of an endpoint, newest first. */
  List<EndpointDefinition> endpointVersions(String name) {
    return definitions.versions("endpoint", name).stream()
        .limit(ENDPOINT_VERSIONS_KEPT)
        .map(row -> reader.read(reader.parts(row.file(), row.text()).getFirst(), Map.of()))
        .map(definition -> ((Definition.OfEndpoint) definition.content()).endpoint())
        .toList();
  }
}
