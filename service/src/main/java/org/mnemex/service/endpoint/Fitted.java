package org.mnemex.service.endpoint;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.service.definition.Card;
import org.mnemex.service.definition.EndpointDefinition;

/**
 * An endpoint together with the schema that answers it.
 *
 * @param weights the searched fields
 * @param languages the searched fields for callers who state a language, by BCP 47 tag
 * @param forced the filter that callers cannot lift
 * @param lifts what multiplies the relevance of records that meet a filter
 * @param card with a title, if any field can be one
 */
public record Fitted(
    EndpointDefinition definition,
    Schema schema,
    Map<String, Double> weights,
    Map<String, Map<String, Double>> languages,
    Query forced,
    List<Signal> lifts,
    List<HighlightRequest> highlights,
    Card card) {

  /** The same with one more filter that callers cannot lift. */
  public Fitted within(Query filter) {
    Query both =
        forced instanceof Query.Everything ? filter : new Query.AllOf(List.of(forced, filter));
    return new Fitted(definition, schema, weights, languages, both, lifts, highlights, card);
  }

  /** The same with more conditions that multiply the relevance of records. */
  public Fitted lifting(List<? extends Signal> more) {
    List<Signal> all = new ArrayList<>(lifts);
    all.addAll(more);
    return new Fitted(definition, schema, weights, languages, forced, all, highlights, card);
  }

  /**
   * The same for a caller who states a language: with the fields of the nearest tag (lookup of RFC
   * 4647), or null if there is none.
   */
  public @Nullable Fitted speaking(String language) {
    List<Locale.LanguageRange> ranges;
    try {
      ranges = Locale.LanguageRange.parse(language);
    } catch (IllegalArgumentException e) {
      return null;
    }
    String tag = Locale.lookupTag(ranges, languages.keySet());
    Map<String, Double> fields = tag == null ? null : languages.get(tag);
    return fields == null
        ? null
        : new Fitted(definition, schema, fields, languages, forced, lifts, highlights, card);
  }

  /** The searched text fields whose words callers may see. */
  public List<String> completedWords() {
    return CompletionFit.completedWords(weights.keySet(), definition, schema);
  }

  /** A facet as a request to the engine, with what is chosen in it. */
  public FacetRequest facet(EndpointDefinition.Facet defined, List<String> chosen) {
    FacetRequest counted = defined.request(schema.field(defined.field()), chosen, "");
    EndpointDefinition.Facet inner =
        defined.split() == null ? null : definition.facets().get(defined.split());
    return inner != null && counted instanceof ValueFacet values
        ? new SplitFacet(values, facet(inner, List.of()))
        : counted;
  }

  /**
   * A facet restricted to values with a word that begins with a text.
   *
   * @throws IllegalArgumentException if its values are not texts
   */
  public FacetRequest facet(
      EndpointDefinition.Facet defined, List<String> chosen, String beginning) {
    Field field = schema.field(defined.field());
    if (field.type() != FieldType.EXACT) {
      throw new IllegalArgumentException(
          "facet '%s' is of %s; only values of exact fields can be searched"
              .formatted(defined.name(), field.type().word()));
    }
    return defined.request(field, chosen, beginning);
  }
}
