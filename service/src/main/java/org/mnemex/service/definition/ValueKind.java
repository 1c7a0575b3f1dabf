package org.mnemex.service.definition;

import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.mnemex.engine.facet.FacetOrder;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.PathFacet;
import org.mnemex.engine.facet.RowFacet;
import org.mnemex.engine.facet.ValueFacet;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/**
 * Counts by value; of paths by the next level, of a group's fields by its rows.
 *
 * @param together whether a result must have all chosen values, or any of them
 * @param rows for fields of a group: whether rows are counted instead of records
 * @param given the values in order, if the definition lists them
 * @param limit number of values shown
 */
public record ValueKind(
    boolean together, boolean rows, FacetOrder order, List<String> given, int limit)
    implements FacetKind {
  /** As of a facet whose definition says nothing. */
  static ValueKind usual() {
    return new ValueKind(false, false, FacetOrder.COUNT, List.of(), FacetReader.LIMIT);
  }

  static ValueKind read(YamlMap facet) {
    boolean together = facet.wordOr("choose", "any", Set.of("any", "all")).equals("all");
    List<String> given = List.of();
    FacetOrder order = FacetOrder.GIVEN;
    if (facet.items("order").size() > 1) {
      given = facet.texts("order");
    } else {
      String word = facet.wordOr("order", "count", Set.of("count", "value", "natural"));
      order = FacetOrder.valueOf(word.toUpperCase(Locale.ROOT));
    }
    return new ValueKind(
        together, facet.booleanOr("rows", false), order, given, FacetReader.limit(facet));
  }

  @Override
  public String key() {
    return "field";
  }

  @Override
  public String kind() {
    return "values";
  }

  @Override
  public FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    List<Object> values = FacetValues.all(chosen, field);
    if (rows && !field.isChild()) {
      throw new IllegalArgumentException(
          "field '%s' does not belong to a group, so it has no rows".formatted(field.name()));
    }
    if (field.type() == FieldType.PATH && !field.isChild()) {
      if (together || defined.split() != null) {
        throw new IllegalArgumentException(
            "field '%s' is a path, of which one is chosen at a time".formatted(field.name()));
      }
      // The children of the chosen path are the next choices.
      String under = chosen.size() == 1 ? chosen.getFirst() : "";
      return new PathFacet(defined.name(), defined.field(), under, values, limit);
    }
    ValueFacet counted =
        new ValueFacet(
            defined.name(),
            defined.field(),
            values,
            limit,
            order,
            FacetValues.all(given, field),
            search,
            together);
    return field.isChild() ? new RowFacet(counted, rows) : counted;
  }
}
