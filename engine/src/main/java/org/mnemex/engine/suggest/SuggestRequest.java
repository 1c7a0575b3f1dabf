package org.mnemex.engine.suggest;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;

/**
 * Completions of a text being typed.
 *
 * @param text what was typed so far; if it does not end in white space, its last word may go on
 * @param fields text fields with the use {@code suggest}
 * @param size how many to return at most
 * @param filter what documents must match
 * @param signals what multiplies the rank of a document's values
 * @param order a field whose highest values come first, such as a date; null: the best documents
 * @param limits what it may cost
 */
public record SuggestRequest(
    String text,
    List<String> fields,
    int size,
    Query filter,
    List<Signal> signals,
    @Nullable String order,
    SearchLimits limits) {
  public SuggestRequest {
    fields = List.copyOf(fields);
    signals = List.copyOf(signals);
  }

  /** The best documents first. */
  public SuggestRequest(
      String text,
      List<String> fields,
      int size,
      Query filter,
      List<Signal> signals,
      SearchLimits limits) {
    this(text, fields, size, filter, signals, null, limits);
  }

  /** Completions from all documents. */
  public static SuggestRequest of(String text, int size, String... fields) {
    return new SuggestRequest(
        text, List.of(fields), size, new Query.Everything(), List.of(), null, SearchLimits.NONE);
  }
}
