package org.mnemex.service.search;

import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.Analyser;
import org.mnemex.engine.text.NearestName;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.grammar.DefinitionPart;
import org.mnemex.grammar.ParsedFile;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.definition.DefinitionReader;
import org.mnemex.service.definition.References;
import org.mnemex.service.definition.Vocabulary;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.status.Analysers;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.change.AnalyserTrial;
import org.mnemex.sync.definition.IndexDefinition;
import org.springframework.stereotype.Component;

/** Tries an analyser, which need not be applied yet, on what a field holds and people search. */
@Component
public class FieldTrial {
  private static final int DOCUMENTS = 2000;
  private static final int QUERIES = 1000;
  private static final int QUERIES_TOLD = 50;

  private final Indexes indexes;
  private final Analysers analysers;
  private final Endpoints endpoints;
  private final RecordedSearches recorded;
  private final DefinitionReader reader = new DefinitionReader(References.NONE);

  FieldTrial(Indexes indexes, Analysers analysers, Endpoints endpoints, RecordedSearches recorded) {
    this.indexes = indexes;
    this.analysers = analysers;
    this.endpoints = endpoints;
    this.recorded = recorded;
  }

  /**
   * What another analyser would change for a field.
   *
   * @param field the field
   * @param before name of the current analyser
   * @param after name of the other analyser
   * @param documents what changes in documents
   * @param queries recorded queries that would get other terms
   */
  public record Tried(
      String field,
      String before,
      String after,
      AnalyserTrial.Outcome documents,
      List<TouchedQuery> queries) {}

  /**
   * A query whose terms another analyser changes.
   *
   * @param words the query
   * @param before its terms now
   * @param after its terms with the other analyser
   */
  public record TouchedQuery(String words, List<String> before, List<String> after) {}

  /**
   * Tries.
   *
   * @param name of an analyser; null if there is a definition
   * @param definition of an analyser in YAML; null if there is a name
   * @throws ProblemException if there is no such field, or not exactly one of the two
   */
  Tried run(String index, String field, @Nullable String name, @Nullable String definition) {
    IndexDefinition of = indexes.liveDefinition(index);
    List<String> texts =
        of.schema().fields().stream()
            .filter(one -> one.type() == FieldType.TEXT)
            .map(Field::name)
            .toList();
    if (!texts.contains(field)) {
      throw new ProblemException(
              ProblemType.UNKNOWN_FIELD,
              "index '%s' has no text field '%s'".formatted(index, field),
              NearestName.to(field, texts))
          .inAddress();
    }
    Analyser analyser = analyser(name, definition);
    Field now = of.schema().field(field);
    Analyser before = Objects.requireNonNull(now.queryAnalyser());
    List<TouchedQuery> queries = new ArrayList<>();
    endpoints.all().stream()
        .filter(endpoint -> endpoint.index().equals(index))
        .flatMap(endpoint -> recorded.most(endpoint.name(), QUERIES).stream())
        .distinct()
        .forEach(
            words -> {
              List<String> was = terms(before, words);
              List<String> is = terms(analyser.forQueries(), words);
              if (!was.equals(is) && queries.size() < QUERIES_TOLD) {
                queries.add(new TouchedQuery(words, was, is));
              }
            });
    return new Tried(
        field,
        Objects.requireNonNull(now.analyser()).name(),
        analyser.name(),
        AnalyserTrial.run(indexes.snapshot(index), of, field, analyser, DOCUMENTS),
        queries);
  }

  private Analyser analyser(@Nullable String name, @Nullable String definition) {
    if (name != null && definition == null) {
      return analysers.get(name);
    }
    if (name == null && definition != null) {
      DefinitionPart part = ParsedFile.read("analyser", definition).orThrow().getFirst();
      if (part.kind() == DefinitionKind.ANALYSER
          && reader.read(part, Vocabulary.BUILT_IN).content() instanceof Definition.OfAnalyser of) {
        return of.analyser();
      }
    }
    throw new ProblemException(
        ProblemType.BAD_BODY, "give 'analyser', a name, or 'definition', the YAML of one analyser");
  }

  private static List<String> terms(Analyser analyser, String text) {
    return analyser.tokens(text).stream().map(AnalysedToken::text).toList();
  }
}
