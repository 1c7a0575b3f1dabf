package org.mnemex.service.run;

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
record InstallationParts(
    String id,
    Path indexFolder,
    DefinitionReader reader,
    DefinitionMapper definitions,
    EditionStore editionStore,
    Quarantine quarantine,
    PushStore pushes,
    PromotionCheck check,
    Clock clock) {
  static final int ENDPOINT_VERSIONS_KEPT = 5;

  /** The editions of an index, none of them open yet. */
  Editions editions(String index) {
    return new Editions(
        index, indexFolder.resolve(index), id, editionStore, quarantine, clock, check);
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
    return reader.read(reader.parts(row.file(), row.text()).getFirst(), analysers);
  }

  /** The source's definition that a version of an index was written down with; empty if unknown. */
  String sourceText(String index, int version) {
    DefinitionRow row = definitions.version("index", index, version);
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
