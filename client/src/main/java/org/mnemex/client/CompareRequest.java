package org.mnemex.client;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What to compare. Made with {@link #of} and narrowed step by step.
 *
 * @param queries the queries; null for the most frequent ones
 * @param left number of the left edition; null for the live one
 * @param right number of the right edition; null for the next one, or else the previous one
 * @param top how many results of each query to compare
 * @param settings definition of the endpoint for the right side; null for the current one
 * @param files definitions that are not applied, for the right side, each with {@code name} and
 *     {@code text}; null for none
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record CompareRequest(
    @Nullable List<String> queries,
    @Nullable Integer left,
    @Nullable Integer right,
    int top,
    @Nullable String settings,
    @Nullable List<Map<String, String>> files) {

  /**
   * The live edition and the next or previous one.
   *
   * @param queries none for the most frequent ones
   */
  public static CompareRequest of(List<String> queries, int top) {
    return new CompareRequest(
        queries.isEmpty() ? null : List.copyOf(queries), null, null, top, null, null);
  }

  /** Certain editions; null for the usual ones. */
  public CompareRequest between(@Nullable Integer leftEdition, @Nullable Integer rightEdition) {
    return new CompareRequest(queries, leftEdition, rightEdition, top, settings, files);
  }

  /** With a definition of the endpoint for the right side. */
  public CompareRequest settings(@Nullable String definition) {
    return new CompareRequest(queries, left, right, top, definition, files);
  }

  /**
   * With definitions for the right side, which are not applied.
   *
   * @param textByName texts by the names of their files; empty for none
   */
  public CompareRequest with(Map<String, String> textByName) {
    return new CompareRequest(
        queries, left, right, top, settings, textByName.isEmpty() ? null : Calls.files(textByName));
  }
}
