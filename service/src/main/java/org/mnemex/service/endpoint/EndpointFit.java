package org.mnemex.service.endpoint;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.SplitFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.query.FilterSyntaxException;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.service.definition.Card;
import org.mnemex.service.definition.EndpointDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;

/** Compares an endpoint with the fields of an index. */
public final class EndpointFit {
  private final EndpointDefinition definition;
  private final Schema schema;
  private final FieldNeeds fields;
  private final List<InvalidDefinitionException> reasons = new ArrayList<>();

  private EndpointFit(EndpointDefinition definition, Schema schema) {
    this.definition = definition;
    this.schema = schema;
    this.fields = new FieldNeeds(schema);
  }

  /**
   * The endpoint fitted to the index.
   *
   * @throws UnfitEndpointException with everything that does not fit
   */
  public static Fitted of(EndpointDefinition definition, Schema schema) {
    return new EndpointFit(definition, schema).fit();
  }

  private Fitted fit() {
    Map<String, Double> weights = weights();
    definition
        .languages()
        .forEach(
            (tag, searched) ->
                searched
                    .keySet()
                    .forEach(name -> run(() -> searched(name, List.of("languages", tag)))));
    definition.facets().values().forEach(facet -> run(() -> facet(facet)));
    definition
        .sorts()
        .forEach((name, keys) -> keys.forEach(key -> run(() -> sort(key, List.of("sorts", name)))));
    definition
        .groups()
        .forEach((name, group) -> run(() -> group(group, List.of("groups", name, "field"))));
    definition.signals().forEach(signal -> run(() -> signal(signal)));
    definition
        .completions()
        .forEach(source -> run(() -> CompletionFit.check(source, definition, fields, weights)));
    definition.show().forEach(name -> run(() -> fields.needStored(name, List.of("show"))));
    List<HighlightRequest> highlights = new ArrayList<>();
    definition.highlights().forEach((name, how) -> run(() -> highlights.add(highlight(name, how))));
    Query forced = of(new Query.Everything(), this::forced);
    List<Signal> lifts = of(List.of(), this::lifts);
    Card card = of(Card.NONE, () -> Cards.fit(definition, schema, weights));
    if (!reasons.isEmpty()) {
      throw new UnfitEndpointException(reasons);
    }
    return new Fitted(
        definition, schema, weights, definition.languages(), forced, lifts, highlights, card);
  }

  private void run(Runnable check) {
    try {
      check.run();
    } catch (InvalidDefinitionException e) {
      reasons.add(e);
    }
  }

  private <T> T of(T otherwise, Supplier<T> part) {
    try {
      return part.get();
    } catch (InvalidDefinitionException e) {
      reasons.add(e);
      return otherwise;
    }
  }

  private Map<String, Double> weights() {
    Map<String, Double> weights = new LinkedHashMap<>();
    if (definition.search().isEmpty()) {
      schema.fields().stream()
          .filter(field -> field.uses().contains(Use.SEARCH))
          .forEach(field -> weights.put(field.name(), field.weight()));
    }
    definition.search().keySet().forEach(name -> run(() -> searched(name, List.of("search"))));
    weights.putAll(definition.search());
    return weights;
  }

  private void searched(String name, List<String> under) {
    List<String> path = Stream.concat(under.stream(), Stream.of(name)).toList();
    Field field = fields.needUse(name, Use.SEARCH, path);
    if (field.isChild()) {
      throw new InvalidDefinitionException(
          path,
          "the words of a group's rows are asked for by a filter, EXISTS (%s WHERE MATCHES(%s, '…')); to search them, add a text field from the same column"
              .formatted(schema.groupOf(field).name(), field.ownName()),
          null);
    }
  }

  private void facet(EndpointDefinition.Facet defined) {
    List<String> path =
        definition.countable().contains(defined.name())
            ? List.of("countable")
            : List.of("facets", defined.name(), "field");
    Field field = fields.need(defined.field(), path);
    if (field.isChild() ? !field.hasColumn() : field.type() != FieldType.PLACE) {
      fields.needUse(defined.field(), Use.FACET, path);
    }
    try {
      FacetRequest request = defined.request(field, List.of(), "");
      request.check(field, schema);
      if (defined.split() != null
          && !(request instanceof ValueFacet values && values.limit() <= SplitFacet.MAX_VALUES)) {
        throw new IllegalArgumentException(
            "only a facet of values of records, with a 'limit' of at most %d, can be split"
                .formatted(SplitFacet.MAX_VALUES));
      }
    } catch (IllegalArgumentException | QueryRefusedException e) {
      throw new InvalidDefinitionException(
          List.of("facets", defined.name(), defined.kind().key()),
          String.valueOf(e.getMessage()),
          null);
    }
  }

  private void sort(EndpointDefinition.SortBy key, List<String> path) {
    Field field = fields.needUse(key.field(), Use.SORT, path);
    if (key.language() != null && !field.type().isOrdinal()) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' (%s) has no order of a language; only names have one"
              .formatted(field.name(), field.type().word()),
          null);
    }
  }

  private void group(EndpointDefinition.GroupBy group, List<String> path) {
    Field field = fields.need(group.field(), path);
    if (!field.hasColumn()
        || field.isChild()
        || !field.type().isOrdinal() && !field.type().isNumeric()) {
      throw new InvalidDefinitionException(
          path,
          "results cannot be grouped by field '%s' (%s); use an exact, number or date field with the use 'filter'"
              .formatted(field.name(), field.type().word()),
          null);
    }
  }

  private void signal(EndpointDefinition.RankSignal signal) {
    List<String> path = List.of("signals", signal.field());
    Field field = fields.need(signal.field(), path);
    boolean fits =
        switch (signal.shape()) {
          case LOGARITHM, SATURATING -> field.type().isNumeric();
          case AGE -> field.type().isMoment();
          case DISTANCE -> field.type() == FieldType.PLACE;
        };
    if (!fits || !field.hasColumn()) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' (%s) cannot be such a signal, or does not have the use 'rank'"
              .formatted(field.name(), field.type().word()),
          null);
    }
  }

  private HighlightRequest highlight(String name, EndpointDefinition.Highlight how) {
    List<String> path = List.of("highlights", name);
    Field field = fields.needStored(name, path);
    if (field.type() == FieldType.PLACE || field.type() == FieldType.GROUP) {
      throw new InvalidDefinitionException(
          path,
          "field '%s' is a %s, so nothing in it is marked".formatted(name, field.type().word()),
          null);
    }
    return new HighlightRequest(
        name, how.fragments(), how.words(), how.sentences(), how.open(), how.close());
  }

  private Query forced() {
    return definition.only() == null ? new Query.Everything() : filter(definition.only(), "only");
  }

  private List<Signal> lifts() {
    List<Signal> lifts = new ArrayList<>();
    for (EndpointDefinition.Lift lift : definition.lifts()) {
      lifts.add(new Signal.Lift(filter(lift.where(), "lifts"), lift.by()));
    }
    return lifts;
  }

  private Query filter(String text, String key) {
    try {
      return FilterText.parse(text, schema);
    } catch (FilterSyntaxException e) {
      throw new InvalidDefinitionException(List.of(key), String.valueOf(e.getMessage()), null);
    }
  }
}
