package org.mnemex.engine.shard;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetPart;

/**
 * What a search found in a shard.
 *
 * @param total how many results there are; at least so many if it is not exact
 * @param partial whether time ran out before everything was examined
 * @param first the first results, at least as many as can be among the first of all; none if they
 *     are in groups
 * @param facets what was counted, in the order of the request
 * @param split what was counted within each value that was asked for, by the number of the facet
 * @param groups all groups, in no particular order; none if results are not in groups
 */
public record ShardResult(
    long total,
    boolean exact,
    boolean partial,
    List<Place> first,
    List<FacetPart> facets,
    Map<Integer, List<FacetPart>> split,
    List<Group> groups) {

  /**
   * A result's place in the order.
   *
   * @param sortValues as in {@link org.mnemex.engine.request.SearchRequest.Cursor}
   */
  public record Place(List<@Nullable Object> sortValues, double score, String key) {}

  /**
   * Results with the same value.
   *
   * @param same what makes it the same group in every shard; null: a document without a value
   * @param value as the best of the results has it
   * @param best the best results, in order
   */
  public record Group(
      @Nullable Object same, @Nullable Object value, long total, List<Place> best) {}
}
