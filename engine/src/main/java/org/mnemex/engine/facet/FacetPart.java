package org.mnemex.engine.facet;

import java.math.BigInteger;
import java.util.List;
import java.util.Map;

/**
 * What was counted of some documents, as data: parts of the same facet can be added up, wherever
 * they were counted.
 */
public sealed interface FacetPart {
  /** Counts by text. */
  record Texts(Map<String, Long> counts) implements FacetPart {}

  /** Counts by number: of a value, of the least value of an interval, or of a range in a list. */
  record Numbers(Map<Long, Long> counts) implements FacetPart {}

  /** Counts of values that are written in several ways, by what the ways have in common. */
  record Spelt(Map<String, Ways> counts) implements FacetPart {}

  /**
   * One value.
   *
   * @param count how many documents or rows have it
   * @param spellings how often it is written in each way
   */
  record Ways(long count, Map<String, Long> spellings) {}

  /**
   * Statistics of numbers.
   *
   * @param least greater than {@code greatest} if there are no values
   * @param kept all values, in any order; empty if percentiles are not asked for
   */
  record Summary(long count, long least, long greatest, BigInteger sum, List<Long> kept)
      implements FacetPart {}

  /**
   * What another facet counted, with the documents that have no value.
   *
   * @param none how many these are
   */
  record OrNone(FacetPart values, long none) implements FacetPart {}
}
