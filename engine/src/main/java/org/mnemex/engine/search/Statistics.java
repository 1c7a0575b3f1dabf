package org.mnemex.engine.search;

import java.util.List;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;

/**
 * Numbers about the whole edition that scores need, and choices that have to be made for all of it.
 * Only what is there counts, so that the same documents score the same, no matter in which segments
 * they are and what was deleted there.
 */
interface Statistics {
  long documents();

  /** Takes a mean length as given. */
  void averageLength(String field, double length);

  /** Mean length of a text field as it is scored, over the documents that have it; at least 1. */
  double averageLength(Field field);

  /** In how many documents a term stands. */
  long documentFrequency(Field field, byte[] term);

  /** In how many documents terms of a rule stand, counting a document once per term. */
  long documentFrequency(Field field, TermRule rule);

  /** Announces that the terms of a rule will be needed in segments. */
  void choose(Field field, TermRule.Best rule);

  /** The terms of a segment that a rule describes. */
  List<TermRule.Found> terms(SegmentReader segment, Field field, TermRule rule);

  /** A mean length. */
  static double mean(long total, long documents) {
    return documents == 0 ? 1 : Math.max(1, (double) total / documents);
  }
}
