package org.mnemex.engine.shard;

import java.util.List;
import java.util.Map;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.request.SearchRequest;

/**
 * A search as a shard is asked for it: with what has to be known about all shards.
 *
 * @param most how many results are enough, from 1
 * @param basis what scores are computed with
 * @param chosen terms by what they were chosen for
 * @param split of facets that are split the values within which to count, by the number of the
 *     facet from 0; without them, within the first values of the shard
 */
public record ShardSearch(
    SearchRequest request,
    long most,
    SearchRequest.Basis basis,
    Map<String, List<Fact.Term>> chosen,
    Map<Integer, List<Object>> split) {

  /** The same with other limits. */
  public ShardSearch within(SearchLimits limits) {
    return new ShardSearch(request.within(limits), most, basis, chosen, split);
  }

  /** The same with facets counted within values. */
  public ShardSearch splitting(Map<Integer, List<Object>> values) {
    return new ShardSearch(request, most, basis, chosen, values);
  }
}
