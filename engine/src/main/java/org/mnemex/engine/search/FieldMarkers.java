package org.mnemex.engine.search;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.mnemex.engine.error.SearchTimeoutException;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.highlight.Highlighter;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;

/** Marks what a search asks for, in those fields in which there is something to mark. */
final class FieldMarkers {
  private final Map<HighlightRequest, Marker> markers = new LinkedHashMap<>();
  private final Budget budget;
  private final boolean partial;

  /** Marks what is asked for in the values of a field. */
  private interface Marker {
    List<String> mark(List<Object> values);
  }

  /**
   * @param asked the filter and the choices, whose values are marked as well
   */
  FieldMarkers(SearchRequest request, Plan plan, Schema schema, List<Query> asked, Budget budget) {
    this.budget = budget;
    this.partial = request.limits().partial();
    for (HighlightRequest highlight : request.highlights()) {
      Field field = schema.field(highlight.field());
      Highlighter words = field.hasTerms() ? Marks.of(plan, field) : Highlighter.NOTHING;
      if (field.type() == FieldType.TEXT) {
        if (!words.isEmpty()) {
          markers.put(
              highlight,
              values ->
                  words.highlight(
                      values.stream().map(String.class::cast).toList(), highlight, budget));
        }
        continue;
      }
      AskedValues conditions = new AskedValues(asked, field);
      if (!words.isEmpty() || !conditions.isEmpty()) {
        markers.put(
            highlight,
            values ->
                values.stream()
                    .filter(
                        value ->
                            conditions.has(value)
                                || value instanceof String text && words.marks(text, budget))
                    .map(value -> Highlighter.whole(value.toString(), highlight))
                    .limit(highlight.fragments() == 0 ? Long.MAX_VALUE : highlight.fragments())
                    .toList());
      }
    }
  }

  /** The fields whose values are needed. */
  Set<String> fields() {
    return markers.keySet().stream().map(HighlightRequest::field).collect(Collectors.toSet());
  }

  /**
   * The marked values by field, of fields with a mark.
   *
   * @param stored values by field
   * @throws SearchTimeoutException if it takes longer than it may, unless a part is enough
   */
  Map<String, List<String>> marked(Map<String, List<Object>> stored) {
    Map<String, List<String>> marked = new LinkedHashMap<>();
    markers.forEach(
        (highlight, marker) -> {
          List<String> fragments = mark(marker, stored.getOrDefault(highlight.field(), List.of()));
          if (!fragments.isEmpty()) {
            marked.put(highlight.field(), fragments);
          }
        });
    return marked;
  }

  private List<String> mark(Marker marker, List<Object> values) {
    if (!budget.mayContinue(0)) {
      return List.of();
    }
    try {
      return marker.mark(values);
    } catch (SearchTimeoutException e) {
      if (partial) {
        return List.of();
      }
      throw e;
    }
  }
}
