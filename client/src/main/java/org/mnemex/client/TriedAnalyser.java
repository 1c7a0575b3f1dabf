package org.mnemex.client;

import java.util.List;

/**
 * What another analyser would change about a field.
 *
 * @param before name of the field's analyser
 * @param after name of the other
 * @param queries recorded queries that would be cut otherwise
 */
public record TriedAnalyser(
    String field, String before, String after, Outcome documents, List<TouchedQuery> queries) {
  /**
   * On documents.
   *
   * @param looked how many documents were looked at
   * @param touched how many of them would have other terms
   */
  public record Outcome(int looked, int touched, List<TermCount> goes, List<TermCount> comes) {}

  /** A term, and in how many of the documents it goes or comes. */
  public record TermCount(String term, int documents) {}

  /** A query, and its terms before and after. */
  public record TouchedQuery(String words, List<String> before, List<String> after) {}
}
