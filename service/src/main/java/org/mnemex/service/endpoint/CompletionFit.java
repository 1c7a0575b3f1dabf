package org.mnemex.service.endpoint;

import java.util.Collection;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.CompletionSource;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.service.definition.PhrasesDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

/** Compares what completes a text with the fields of an index. */
public final class CompletionFit {
  private static final String KEY = "completions";

  private CompletionFit() {}

  /** The searched text fields whose words callers may see. */
  static List<String> completedWords(
      Collection<String> searched, EndpointDefinition endpoint, Schema schema) {
    return searched.stream()
        .filter(endpoint.show()::contains)
        .filter(
            name -> {
              Field field = schema.field(name);
              return field.type() == FieldType.TEXT && field.hasTerms() && field.isStored();
            })
        .toList();
  }

  /**
   * Checks a source of completions.
   *
   * @param weights the searched fields
   * @throws InvalidDefinitionException if it does not fit
   */
  static void check(
      CompletionSource source,
      EndpointDefinition endpoint,
      FieldNeeds fields,
      Map<String, Double> weights) {
    switch (source) {
      case CompletionSource.Values values -> values(values, endpoint, fields);
      case CompletionSource.Words words -> {
        List<String> searched = weights.keySet().stream().filter(fields.schema()::has).toList();
        if (completedWords(searched, endpoint, fields.schema()).isEmpty()) {
          throw new InvalidDefinitionException(
              List.of(KEY, "words"),
              "none of the searched text fields is shown, so no word can be completed",
              null);
        }
      }
      case CompletionSource.Facets facets ->
          facets.of().forEach(name -> facet(name, endpoint, fields));
      case CompletionSource.Given given -> {
        // Whether they are defined is checked with the other definitions.
      }
      case CompletionSource.Searched searched -> {
        // Every endpoint has searches.
      }
    }
  }

  private static void values(
      CompletionSource.Values values, EndpointDefinition endpoint, FieldNeeds fields) {
    List<String> path = List.of(KEY, "values", "of");
    for (String name : values.of()) {
      fields.needCompleting(name, path);
      if (!endpoint.show().contains(name)) {
        throw new InvalidDefinitionException(
            path, "field '%s' is not among those that results show".formatted(name), null);
      }
    }
    if (values.recent() != null) {
      fields.needOrdered(values.recent(), List.of(KEY, "values", "recent"));
    }
  }

  private static void facet(String name, EndpointDefinition endpoint, FieldNeeds fields) {
    List<String> path = List.of(KEY, "facets", "of");
    EndpointDefinition.Facet defined = endpoint.facets().get(name);
    if (defined == null) {
      throw new InvalidDefinitionException(
          path,
          "the endpoint has no facet '%s'".formatted(name),
          NearestName.to(name, endpoint.facets().keySet()));
    }
    Field field = fields.need(defined.field(), path);
    if (field.type() != FieldType.EXACT || !field.hasTerms() || field.isChild()) {
      throw new InvalidDefinitionException(
          path,
          "facet '%s' cannot complete words: field '%s' is not an exact field with the use 'filter'"
              .formatted(name, field.name()),
          null);
    }
  }

  /**
   * Checks that an index has the field and the weight of phrases.
   *
   * @throws InvalidDefinitionException if it does not
   */
  public static void check(PhrasesDefinition.FromIndex from, Schema schema) {
    FieldNeeds fields = new FieldNeeds(schema);
    fields.needCompleting(from.field(), List.of("field"));
    if (from.weight() != null) {
      fields.needOrdered(from.weight(), List.of("weight"));
    }
  }
}
