package org.mnemex.service.install;

import java.util.Collection;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.CurationDefinition;
import org.mnemex.service.definition.DefinitionId;
import org.mnemex.service.definition.SynonymsDefinition;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.install.RunningDefinition.FollowedIndex;
import org.mnemex.service.install.RunningDefinition.RunningAnalyser;
import org.mnemex.service.install.RunningDefinition.RunningCuration;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.install.RunningDefinition.RunningPhrases;
import org.mnemex.service.install.RunningDefinition.RunningScorecard;
import org.mnemex.service.install.RunningDefinition.RunningSource;
import org.mnemex.service.install.RunningDefinition.RunningSynonyms;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.edition.SearchedEdition;

/** Everything that runs. Immutable: changes create a new instance. */
public final class Running {
  public static final Running NOTHING = new Running(List.of());

  private final Map<DefinitionId, RunningDefinition> all = new TreeMap<>();
  private final Map<String, RunningSource> sources;
  private final Map<String, RunningAnalyser> analysers;
  private final Map<String, RunningSynonyms> synonyms;
  private final Map<String, RunningIndex> indexes;
  private final Map<String, FollowedIndex> followed;
  private final Map<String, RunningPhrases> phrases;
  private final Map<String, RunningEndpoint> endpoints;
  private final Map<String, RunningCuration> curations;
  private final Map<String, RunningScorecard> scorecards;

  public Running(Collection<? extends RunningDefinition> definitions) {
    definitions.forEach(definition -> all.put(definition.id(), definition));
    sources = each(RunningSource.class);
    analysers = each(RunningAnalyser.class);
    synonyms = each(RunningSynonyms.class);
    indexes = each(RunningIndex.class);
    followed = each(FollowedIndex.class);
    phrases = each(RunningPhrases.class);
    endpoints = each(RunningEndpoint.class);
    curations = each(RunningCuration.class);
    scorecards = each(RunningScorecard.class);
  }

  private <T extends RunningDefinition> Map<String, T> each(Class<T> type) {
    Map<String, T> byName = new TreeMap<>();
    all.forEach(
        (id, definition) -> {
          if (type.isInstance(definition)) {
            byName.put(id.name(), type.cast(definition));
          }
        });
    return Collections.unmodifiableMap(byName);
  }

  public Map<String, RunningSource> sources() {
    return sources;
  }

  /** The defined analysers; the built-in ones are not among them. */
  public Map<String, RunningAnalyser> analysers() {
    return analysers;
  }

  public Map<String, RunningSynonyms> synonyms() {
    return synonyms;
  }

  /** The indexes that are built here. */
  public Map<String, RunningIndex> indexes() {
    return indexes;
  }

  /** The indexes that are built elsewhere. */
  public Map<String, FollowedIndex> followed() {
    return followed;
  }

  /** The edition that answers for an index; null if there is none, or no such index. */
  public @Nullable SearchedEdition live(String index) {
    RunningIndex built = indexes.get(index);
    if (built != null) {
      return built.editions().live();
    }
    FollowedIndex copied = followed.get(index);
    return copied == null ? null : copied.live();
  }

  public Map<String, RunningPhrases> phrases() {
    return phrases;
  }

  public Map<String, RunningEndpoint> endpoints() {
    return endpoints;
  }

  public Map<String, RunningCuration> curations() {
    return curations;
  }

  /** The curations of an endpoint, by their names. */
  public List<CurationDefinition> curationsOf(String endpoint) {
    return curations.values().stream()
        .map(RunningCuration::curation)
        .filter(curation -> curation.endpoint().equals(endpoint))
        .toList();
  }

  public Map<String, RunningScorecard> scorecards() {
    return scorecards;
  }

  /** What the text fields of indexes may refer to. */
  Vocabulary vocabulary() {
    Map<String, Analyser> chains = new TreeMap<>();
    analysers.forEach((name, one) -> chains.put(name, one.analyser()));
    Map<String, SynonymsDefinition> words = new TreeMap<>();
    synonyms.forEach((name, one) -> words.put(name, one.synonyms()));
    return new Vocabulary(chains, words);
  }

  /** The running counterpart of a definition, or null. */
  public @Nullable RunningDefinition get(DefinitionId id) {
    return all.get(id);
  }

  /** The definitions that need another one. */
  public List<DefinitionId> usersOf(DefinitionId id) {
    return all.values().stream()
        .filter(definition -> definition.uses().contains(id))
        .map(RunningDefinition::id)
        .toList();
  }

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

  /** A copy with a definition added or replaced. */
  public Running with(RunningDefinition definition) {
    return changed(
        definitions -> {
          definitions.put(definition.id(), definition);
          return definitions;
        });
  }

  /** A copy without a definition. */
  public Running without(DefinitionId id) {
    return changed(
        definitions -> {
          definitions.remove(id);
          return definitions;
        });
  }

  private Running changed(UnaryOperator<Map<DefinitionId, RunningDefinition>> change) {
    return new Running(change.apply(new TreeMap<>(all)).values());
  }
}
