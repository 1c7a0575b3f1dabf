package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.grammar.DefinitionException;
import org.mnemex.grammar.DefinitionPart;

/** Reads the content of definitions whose grammar has been checked. */
public final class DefinitionReader {
  private final Function<String, @Nullable String> environment;

  /**
   * @param environment what {@code ${NAME}} stands for, null if it is not set
   */
  public DefinitionReader(Function<String, @Nullable String> environment) {
    this.environment = environment;
  }

  /**
   * Reads a definition's content.
   *
   * @param analysers the analysers that it may use besides the built-in ones
   * @throws DefinitionException with everything that is wrong with it
   */
  public Definition read(DefinitionPart part, Map<String, Analyser> analysers) {
    YamlMap map = new YamlMap(part.file(), List.of(), part.node());
    map.text(part.kind().word());
    Definition.Content content =
        switch (part.kind()) {
          case SOURCE ->
              new Definition.OfSource(new SourceReader(map, part.name(), environment).read());
          case ANALYSER -> new Definition.OfAnalyser(new AnalyserReader(map, part.name()).read());
          case INDEX -> new IndexReader(map, part.name(), analysers).read();
          case ENDPOINT -> new Definition.OfEndpoint(new EndpointReader(map, part.name()).read());
          case SCORECARD ->
              new Definition.OfScorecard(new ScorecardReader(map, part.name()).read());
        };
    map.finish();
    return new Definition(part.file(), part.name(), part.text(), part.node(), content);
  }
}
