package org.mnemex.service.install;

import java.util.Set;
import org.mnemex.engine.text.Analyser;
import org.mnemex.service.definition.CurationDefinition;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.definition.PhrasesDefinition;
import org.mnemex.service.definition.ScorecardDefinition;
import org.mnemex.service.definition.SynonymsDefinition;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.source.Source;

/** A definition and its running counterpart. */
public sealed interface RunningDefinition {
  Definition definition();

  /** The version of the definition that is current. */
  int version();

  /** Its kind and name. */
  default DefinitionId id() {
    return definition().id();
  }

  /** The definitions that it needs. */
  default Set<DefinitionId> uses() {
    return definition().content().uses();
  }

  record RunningSource(Definition definition, int version, Source source)
      implements RunningDefinition {}

  record RunningAnalyser(Definition definition, int version, Analyser analyser)
      implements RunningDefinition {}

  record RunningSynonyms(Definition definition, int version, SynonymsDefinition synonyms)
      implements RunningDefinition {}

  record RunningIndex(Definition definition, int version, IndexDefinition index, Editions editions)
      implements RunningDefinition {}

  /**
   * An index that is built elsewhere.
   *
   * @param live the copy of the edition that answers there
   */
  record FollowedIndex(
      Definition definition, int version, IndexDefinition index, SearchedEdition live)
      implements RunningDefinition {}

  record RunningPhrases(Definition definition, int version, PhrasesDefinition phrases)
      implements RunningDefinition {}

  record RunningEndpoint(Definition definition, int version, Endpoint endpoint)
      implements RunningDefinition {}

  record RunningCuration(Definition definition, int version, CurationDefinition curation)
      implements RunningDefinition {}

  record RunningScorecard(Definition definition, int version, ScorecardDefinition scorecard)
      implements RunningDefinition {}
}
