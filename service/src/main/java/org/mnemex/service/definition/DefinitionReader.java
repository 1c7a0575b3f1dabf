package org.mnemex.service.definition;

import java.util.List;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionPart;

/** Reads the content of definitions whose grammar has been checked. */
public final class DefinitionReader {
  private final References references;

  /**
   * @param references what definitions may refer to
   */
  public DefinitionReader(References references) {
    this.references = references;
  }

  /**
   * Reads a definition's content.
   *
   * @param vocabulary what its text fields may refer to besides what is built in
   * @throws DefinitionException with everything that is wrong with it
   */
  public Definition read(DefinitionPart part, Vocabulary vocabulary) {
    YamlMap map = new YamlMap(part.file(), List.of(), part.node());
    map.text(part.kind().word());
    Definition.Content content =
        switch (part.kind()) {
          case SOURCE ->
              new Definition.OfSource(new SourceReader(map, part.name(), references).read());
          case ANALYSER -> new Definition.OfAnalyser(new AnalyserReader(map, part.name()).read());
          case INDEX -> new IndexReader(map, part.name(), vocabulary).read();
          case SYNONYMS -> new Definition.OfSynonyms(new SynonymsReader(map, part.name()).read());
          case PHRASES -> new Definition.OfPhrases(new PhrasesReader(map, part.name()).read());
          case ENDPOINT -> new Definition.OfEndpoint(new EndpointReader(map, part.name()).read());
          case CURATION -> new Definition.OfCuration(new CurationReader(map, part.name()).read());
          case SCORECARD ->
              new Definition.OfScorecard(new ScorecardReader(map, part.name()).read());
        };
    map.finish();
    return new Definition(part.file(), part.name(), part.text(), part.node(), content);
  }
}
