package org.mnemex.service.endpoint;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.definition.Card;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * An endpoint's versions, newest first. While a new edition is being filled, the newest version may
 * name fields that the live edition does not have yet; then the newest one that fits answers.
 */
public final class Endpoint {
  private static final Logger LOG = LoggerFactory.getLogger(Endpoint.class);

  private final List<EndpointDefinition> versions;
  private final int version;

  /** As many as an index has editions. */
  private static final int MAX_KEPT = 3;

  /** The latest fits. A definition has a new schema each time it is asked, so it is the key. */
  private volatile List<Kept> kept = List.of();

  private record Kept(IndexDefinition index, @Nullable Fitted fitted) {}

  /**
   * @param versions newest first
   * @param version number of the newest
   */
  public Endpoint(List<EndpointDefinition> versions, int version) {
    this.versions = List.copyOf(versions);
    this.version = version;
  }

  public EndpointDefinition newest() {
    return versions.getFirst();
  }

  /** Number of the newest version. */
  public int version() {
    return version;
  }

  /** The endpoint as it can be answered by an edition of this definition, or null. */
  @SuppressWarnings("ReferenceEquality") // Comparing definitions would cost more than fitting.
  public @Nullable Fitted fit(IndexDefinition index) {
    List<Kept> known = kept;
    for (Kept one : known) {
      if (one.index == index) {
        return one.fitted;
      }
    }
    Kept fitted = new Kept(index, newest(index.schema()));
    kept = Stream.concat(Stream.of(fitted), known.stream()).limit(MAX_KEPT).toList();
    return fitted.fitted;
  }

  private @Nullable Fitted newest(Schema schema) {
    for (EndpointDefinition candidate : versions) {
      try {
        return fit(candidate, schema);
      } catch (InvalidDefinitionException e) {
        LOG.debug("a version of endpoint '{}' waits for another edition", candidate.name(), e);
      }
    }
    return null;
  }

  /**
   * Checks a definition against a schema.
   *
   * @throws InvalidDefinitionException for the first thing that does not fit
   */
  public static Fitted fit(EndpointDefinition definition, Schema schema) {
    Map<String, Double> weights = new LinkedHashMap<>();
    if (definition.search().isEmpty()) {
      schema.fields().stream()
          .filter(field -> field.uses().contains(Use.SEARCH))
          .forEach(field -> weights.put(field.name(), field.weight()));
    }
    definition
        .search()
        .forEach(
            (name, weight) -> {
              Field field = needUse(schema, name, Use.SEARCH, List.of("search", name));
              if (field.isChild()) {
                throw new InvalidDefinitionException(
                    List.of("search", name),
                    "the words of a group's rows are asked for by a filter, EXISTS (%s WHERE MATCHES(%s, '…')); to search them, add a text field from the same column"
                        .formatted(schema.groupOf(field).name(), field.ownName()),
                    null);
              }
              weights.put(name, weight);
            });
    for (EndpointDefinition.Facet one : definition.facets().values()) {
      List<String> path = List.of("facets", one.name(), "field");
      Field field = need(schema, one.field(), path);
      if (field.isChild() ? !field.hasColumn() : field.type() != FieldType.PLACE) {
        needUse(schema, one.field(), Use.FACET, path);
      }
      if (!one.ranges().isEmpty() && !field.type().isNumeric()) {
        throw new InvalidDefinitionException(
            List.of("facets", one.name(), "ranges"),
            "field '" + field.name() + "' is no number or date, so it has no ranges",
            null);
      }
      for (String range : one.ranges()) {
        try {
          FacetValues.interval(range, field);
        } catch (IllegalArgumentException e) {
          throw new InvalidDefinitionException(
              List.of("facets", one.name(), "ranges"), String.valueOf(e.getMessage()), null);
        }
      }
      fitFacet(one, field);
    }
    definition
        .sorts()
        .forEach((name, keys) -> keys.forEach(key -> fitSort(schema, key, List.of("sorts", name))));
    definition
        .groups()
        .forEach((name, group) -> fitGroup(schema, group, List.of("groups", name, "field")));
    for (EndpointDefinition.RankSignal signal : definition.signals()) {
      List<String> path = List.of("signals", signal.field());
      Field field = need(schema, signal.field(), path);
      boolean fits =
          switch (signal.shape()) {
            case LOGARITHM, SATURATING -> field.type().isNumeric();
            case AGE -> field.type() == FieldType.DATE || field.type() == FieldType.INSTANT;
            case DISTANCE -> field.type() == FieldType.PLACE;
          };
      if (!fits || !field.hasColumn()) {
        throw new InvalidDefinitionException(
            path,
            "field '%s' (%s) cannot be such a signal, or has not the use 'rank'"
                .formatted(field.name(), field.type().word()),
            null);
      }
    }
    definition.show().forEach(name -> needStored(schema, name, List.of("show")));
    List<HighlightRequest> highlights = new ArrayList<>();
    definition
        .highlights()
        .forEach(
            (name, how) -> {
              List<String> path = List.of("highlights", name);
              Field field = needStored(schema, name, path);
              if (field.type() == FieldType.PLACE || field.type() == FieldType.GROUP) {
                throw new InvalidDefinitionException(
                    path,
                    "field '%s' is a %s, so nothing in it is marked"
                        .formatted(name, field.type().word()),
                    null);
              }
              highlights.add(
                  new HighlightRequest(
                      name,
                      how.fragments(),
                      how.words(),
                      how.sentences(),
                      how.open(),
                      how.close()));
            });
    return new Fitted(
        definition,
        schema,
        weights,
        forced(definition, schema),
        lifts(definition, schema),
        highlights,
        Cards.fit(definition, schema, weights));
  }

  private static void fitSort(Schema schema, EndpointDefinition.SortBy key, List<String> path) {
    Field field = needUse(schema, key.field(), Use.SORT, path);
    if (key.language() != null && !field.type().isOrdinal()) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' (%s) has no order of a language; only names have"
              .formatted(field.name(), field.type().word()),
          null);
    }
  }

  private static void fitGroup(Schema schema, EndpointDefinition.GroupBy group, List<String> path) {
    Field field = need(schema, group.field(), path);
    if (!field.hasColumn()
        || field.isChild()
        || !field.type().isOrdinal() && !field.type().isNumeric()) {
      throw new InvalidDefinitionException(
          path,
          "results cannot be grouped by field '%s' (%s); an exact, number or date field with the use 'filter' is wanted"
              .formatted(field.name(), field.type().word()),
          null);
    }
  }

  private static void fitFacet(EndpointDefinition.Facet facet, Field field) {
    try {
      FacetRequest request = FacetValues.request(facet, field, List.of());
      if (facet.split() != null
          && !(request instanceof FacetRequest.Values values
              && values.limit() <= FacetRequest.Split.MAX_VALUES)) {
        throw new IllegalArgumentException(
            "only a facet of values of records, with a 'limit' of at most %d, can be split"
                .formatted(FacetRequest.Split.MAX_VALUES));
      }
    } catch (IllegalArgumentException | QueryRefusedException e) {
      throw new InvalidDefinitionException(
          List.of("facets", facet.name()), String.valueOf(e.getMessage()), null);
    }
  }

  private static Query forced(EndpointDefinition definition, Schema schema) {
    if (definition.only() == null) {
      return new Query.Everything();
    }
    try {
      return FilterText.parse(definition.only(), schema);
    } catch (FilterSyntaxException e) {
      throw new InvalidDefinitionException(List.of("only"), String.valueOf(e.getMessage()), null);
    }
  }

  private static List<Signal> lifts(EndpointDefinition definition, Schema schema) {
    List<Signal> lifts = new ArrayList<>();
    for (EndpointDefinition.Lift lift : definition.lifts()) {
      try {
        lifts.add(new Signal.Lift(FilterText.parse(lift.where(), schema), lift.by()));
      } catch (FilterSyntaxException e) {
        throw new InvalidDefinitionException(
            List.of("lifts"), String.valueOf(e.getMessage()), null);
      }
    }
    return lifts;
  }

  private static Field needUse(Schema schema, String name, Use use, List<String> path) {
    Field field = need(schema, name, path);
    if (!field.uses().contains(use)) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' has not the use '%s'; add it in the index definition"
              .formatted(name, use.word()),
          null);
    }
    return field;
  }

  private static Field needStored(Schema schema, String name, List<String> path) {
    Field field = need(schema, name, path);
    if (!field.isStored()) {
      throw new InvalidDefinitionException(
          path,
          "field '" + name + "' has not the use 'show'; add it in the index definition",
          null);
    }
    return field;
  }

  private static Field need(Schema schema, String name, List<String> path) {
    if (!schema.has(name)) {
      Set<String> names =
          schema.fields().stream()
              .map(Field::name)
              .collect(java.util.stream.Collectors.toUnmodifiableSet());
      throw new InvalidDefinitionException(
          path, "the index has no field '" + name + "'", NearestName.to(name, names));
    }
    return schema.field(name);
  }

  /**
   * An endpoint together with the schema that answers it.
   *
   * @param weights the searched fields
   * @param forced the filter that no caller can take away
   * @param lifts what multiplies the relevance of records that meet a filter
   * @param card with a title, if any field can be one
   */
  public record Fitted(
      EndpointDefinition definition,
      Schema schema,
      Map<String, Double> weights,
      Query forced,
      List<Signal> lifts,
      List<HighlightRequest> highlights,
      Card card) {

    /** A facet as a request to the engine, with what is chosen in it. */
    public FacetRequest facet(EndpointDefinition.Facet defined, List<String> chosen) {
      FacetRequest counted = FacetValues.request(defined, schema.field(defined.field()), chosen);
      EndpointDefinition.Facet inner =
          defined.split() == null ? null : definition.facets().get(defined.split());
      return inner != null && counted instanceof FacetRequest.Values values
          ? new FacetRequest.Split(values, facet(inner, List.of()))
          : counted;
    }

    /**
     * A facet of which only values are asked for that have a word beginning so.
     *
     * @throws IllegalArgumentException if its values are no texts
     */
    public FacetRequest facet(
        EndpointDefinition.Facet defined, List<String> chosen, String beginning) {
      Field field = schema.field(defined.field());
      if (field.type() != FieldType.EXACT) {
        throw new IllegalArgumentException(
            "facet '%s' is of %s; only values of exact fields can be searched"
                .formatted(defined.name(), field.type().word()));
      }
      return FacetValues.request(defined, field, chosen, beginning);
    }
  }
}
