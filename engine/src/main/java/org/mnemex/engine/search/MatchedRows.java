package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;

/**
 * Which child rows of shown groups meet the conditions of a request: a row that meets any condition
 * which results have to meet, or may meet instead of another. What is excluded does not count.
 */
final class MatchedRows {
  private final Map<String, List<Query.Group>> conditions = new LinkedHashMap<>();
  private final Function<SegmentReader, SegmentFilter> filters;
  private final IdentityHashMap<SegmentReader, Map<String, DocBits>> rows = new IdentityHashMap<>();

  /**
   * @param asked the request's filter and choices
   * @param shown names of fields
   */
  MatchedRows(
      List<Query> asked, Set<String> shown, Function<SegmentReader, SegmentFilter> filters) {
    this.filters = filters;
    asked.forEach(query -> collect(query, shown));
  }

  private void collect(Query query, Set<String> shown) {
    switch (query) {
      case Query.AllOf all -> all.clauses().forEach(clause -> collect(clause, shown));
      case Query.AnyOf any -> any.clauses().forEach(clause -> collect(clause, shown));
      case Query.Some some -> some.clauses().forEach(clause -> collect(clause, shown));
      case Query.Group group -> {
        if (shown.contains(group.field())) {
          conditions.computeIfAbsent(group.field(), name -> new ArrayList<>()).add(group);
        }
      }
      default -> {
        // It asks for no row.
      }
    }
  }

  /** The numbers of a document's rows that are met, from 0, by group; only of groups asked for. */
  Map<String, List<Integer>> of(SegmentReader segment, int doc) {
    Map<String, List<Integer>> matched = new LinkedHashMap<>();
    if (conditions.isEmpty()) {
      return matched;
    }
    rows.computeIfAbsent(segment, this::bits)
        .forEach(
            (group, bits) -> {
              PackedNumbers firsts = segment.groupFirsts(segment.schema().field(group));
              int first = (int) firsts.get(doc);
              List<Integer> numbers = new ArrayList<>();
              for (int row = first; row < firsts.get(doc + 1L); row++) {
                if (bits.get(row)) {
                  numbers.add(row - first);
                }
              }
              matched.put(group, numbers);
            });
    return matched;
  }

  private Map<String, DocBits> bits(SegmentReader segment) {
    SegmentFilter filter = filters.apply(segment);
    Map<String, DocBits> all = new LinkedHashMap<>();
    conditions.forEach(
        (group, queries) -> {
          DocBits bits = filter.childRows(queries.getFirst());
          queries.stream().skip(1).forEach(query -> bits.or(filter.childRows(query)));
          all.put(group, bits);
        });
    return all;
  }
}
