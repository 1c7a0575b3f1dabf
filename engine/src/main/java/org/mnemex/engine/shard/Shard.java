package org.mnemex.engine.shard;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;

/**
 * Some documents of an edition at one moment, in another place. Whatever it is asked and answers is
 * data that can travel. Errors of searches are thrown as for documents in this process.
 */
public interface Shard {
  /** The same with helpers for searches that have to know all results, if it is in this process. */
  default Shard helpedBy(Helpers helpers) {
    return this;
  }

  /** How many documents there are. */
  long documents();

  /**
   * What searches have to know about all documents, as far as this shard goes, by what it is about.
   * All shards of an edition tell about the same.
   *
   * @param requests what will be searched for, at least one
   * @param scored whether anybody looks at scores
   */
  Map<String, Fact> facts(List<SearchRequest> requests, boolean scored);

  /**
   * Matches, counts and ranks.
   *
   * @param searches at least one; together they may take as long as the first
   * @return one for each
   */
  List<ShardResult> search(List<ShardSearch> searches);

  /**
   * How many results each of some searches has, up to as many as are enough.
   *
   * @param searches at least one; together they may take as long as the first
   */
  List<Long> counts(List<ShardSearch> searches);

  /**
   * What is shown of some results; their scores and places in the order do not count.
   *
   * @param keys of documents of this shard
   * @return one for each key; null if there is no such document
   */
  List<SearchResult.@Nullable Hit> show(ShardSearch search, List<String> keys);

  /** Explains a document of this shard; null if there is none with that key. */
  @Nullable Explanation explain(ShardSearch search, String key);

  /**
   * Candidates for the best terms that a word being typed may become.
   *
   * @param field its name
   * @param beginning analysed text
   * @param edits typing errors at most
   * @param prefix whether the term may be longer
   */
  Fact.Terms completions(
      String field, String beginning, int edits, boolean prefix, int most, SearchLimits limits);

  /**
   * In how many documents each of some terms stands.
   *
   * @param terms by the name of their field
   * @return the numbers by term, by the name of the field
   */
  Map<String, Map<String, Long>> having(Map<String, List<String>> terms, SearchLimits limits);

  /** The values of an exact field that fit what is typed, the best first. */
  List<Phrases.Found> values(String field, String typed, int most);
}
