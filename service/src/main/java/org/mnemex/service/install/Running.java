package org.mnemex.service.install;

import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.endpoint.Endpoint;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Editions;
import org.mnemex.sync.source.Source;

/**
 * Everything that runs, by name.
 *
 * @param analysers the defined ones; the built-in ones are not among them
 */
public record Running(
    Map<String, RunningSource> sources,
    Map<String, RunningAnalyser> analysers,
    Map<String, RunningIndex> indexes,
    Map<String, Endpoint> endpoints,
    Map<String, RunningScorecard> scorecards) {

  public static final Running NOTHING =
      new Running(Map.of(), Map.of(), Map.of(), Map.of(), Map.of());

  public Running {
    sources = Map.copyOf(new TreeMap<>(sources));
    analysers = Map.copyOf(analysers);
    indexes = Map.copyOf(indexes);
    endpoints = Map.copyOf(endpoints);
    scorecards = Map.copyOf(scorecards);
  }

  public record RunningSource(Definition definition, int version, Source source) {}

  public record RunningAnalyser(Definition definition, int version, Analyser analyser) {}

  public record RunningIndex(
      Definition definition, int version, IndexDefinition index, Editions editions) {}

  /**
   * The index of that name.
   *
   * @throws ProblemException 404 if there is none
   */
  public RunningIndex index(String name) {
    RunningIndex index = indexes.get(name);
    if (index == null) {
      throw new ProblemException(
          ProblemType.UNKNOWN_INDEX,
          "there is no index '" + name + "'",
          NearestName.to(name, indexes.keySet()));
    }
    return index;
  }

  /** The same with other indexes. */
  public Running withIndexes(Map<String, RunningIndex> others) {
    return new Running(sources, analysers, others, endpoints, scorecards);
  }
}
