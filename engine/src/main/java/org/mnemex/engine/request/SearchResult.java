package org.mnemex.engine.request;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.facet.FacetResult;

/**
 * The result of a search.
 *
 * @param total number of matching documents
 * @param totalIsExact false if there may be more than {@code total}
 * @param groups how many groups there are; 0 if none were asked for
 * @param hits the asked part of them, in order
 * @param facets the asked facets, in the order of the request
 * @param checkpoint the checkpoint of the snapshot
 * @param partial whether time ran out before everything was examined
 */
public record SearchResult(
    long total,
    boolean totalIsExact,
    long groups,
    List<Hit> hits,
    List<FacetResult> facets,
    Checkpoint checkpoint,
    boolean partial) {

  /**
   * One result.
   *
   * @param score relevance times signals; 0 if the query only filters and there are no signals
   * @param fields values of the shown fields by name
   * @param highlights escaped HTML with marks by field name; only fields with something to mark
   * @param rows numbers of the rows of shown groups that meet the request's conditions, from 0;
   *     only of groups that a condition is about
   * @param cursor its place in the order, to go on after it
   * @param group the group whose best result it is; null if none were asked for
   */
  public record Hit(
      String key,
      double score,
      Map<String, List<Object>> fields,
      Map<String, List<String>> highlights,
      Map<String, List<Integer>> rows,
      SearchRequest.Cursor cursor,
      @Nullable Group group) {
    /** The same as the best result of a group. */
    public Hit in(Group of) {
      return new Hit(key, score, fields, highlights, rows, cursor, of);
    }
  }

  /**
   * Results with the same value.
   *
   * @param value null if the document has none
   * @param total how many documents belong to it
   * @param others the next best of them, in order
   */
  public record Group(@Nullable Object value, long total, List<Hit> others) {}
}
