package org.mnemex.engine.shard;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetPart;
import org.mnemex.engine.request.SearchResult;

/**
 * What a search found in a shard.
 *
 * @param total how many results there are; at least so many if it is not exact
 * @param partial whether time ran out before everything was examined
 * @param first the first results, as many as can be among the first of all; none if they are in
 *     groups
 * @param shown what is shown of the first results, if they are few; otherwise {@link Shard#show}
 *     tells it of those that are among the first of all
 * @param facets what was counted, in the order of the request
 * @param split of facets that are split what was counted within values, by the number of the facet
 * @param groups all groups, in no particular order; none if results are not in groups
 */
public record ShardResult(
    long total,
    boolean exact,
    boolean partial,
    List<Place> first,
    List<SearchResult.Hit> shown,
    List<FacetPart> facets,
    Map<Integer, Split> split,
    List<Group> groups) {

  /**
   * A result's place in the order.
   *
   * @param sortValues as in {@link org.mnemex.engine.request.SearchRequest.Cursor}
   */
  public record Place(List<@Nullable Object> sortValues, double score, String key) {}

  /**
   * What was counted of a facet that is split.
   *
   * @param isComplete whether there are no other values in this shard
   * @param within what was counted within values: those that were asked for, or else the first
   */
  public record Split(boolean isComplete, List<Within> within) {}

  /** What was counted within a value. */
  public record Within(Object value, FacetPart counts) {}

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
