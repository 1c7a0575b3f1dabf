package org.mnemex.engine.search;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/**
 * Frequencies of many terms in one field of a segment, added up by document. Once added up, they
 * are walked as often as a search needs.
 */
final class Sums {
  /** Documents that share a bound. */
  private static final int BLOCK = 128;

  private final DocBits docs;
  private final float[] freqs;
  private final int @Nullable [] shortest;

  /** By block. */
  private final float[] greatest;

  private long count = -1;

  /**
   * Nothing yet.
   *
   * @param rows how many documents the segment has
   */
  Sums(SegmentReader segment, Field field, int rows) {
    this.docs = new DocBits(rows);
    this.freqs = new float[rows];
    this.greatest = new float[(rows + BLOCK - 1) / BLOCK];
    this.shortest = field.type() == FieldType.TEXT ? segment.shortest(field, BLOCK) : null;
  }

  /**
   * Adds the documents of a term. Only before the first walk.
   *
   * @param strength what one occurrence counts
   */
  void add(Postings postings, double strength) {
    for (int n = postings.nextDocs(); n > 0; n = postings.nextDocs()) {
      int[] here = postings.docs();
      int[] often = postings.freqs();
      for (int i = 0; i < n; i++) {
        int doc = here[i];
        float sum = freqs[doc] + (float) strength * often[i];
        docs.set(doc);
        freqs[doc] = sum;
        if (sum > greatest[doc / BLOCK]) {
          greatest[doc / BLOCK] = sum;
        }
      }
    }
  }

  /** A new walk through the documents. */
  Occurrences walk() {
    if (count < 0) {
      count = docs.count();
    }
    return new Walk();
  }

  private double factor(int block, double[] factors) {
    return factors[shortest == null ? 0 : shortest[block]];
  }

  private final class Walk extends Occurrences {
    private int doc = -1;

    @Override
    int doc() {
      return doc;
    }

    @Override
    int next() {
      return advance(doc + 1);
    }

    @Override
    int advance(int target) {
      if (doc < target) {
        int found = target >= docs.size() ? -1 : docs.next(target);
        doc = found < 0 ? END : found;
      }
      return doc;
    }

    @Override
    double freq() {
      return freqs[doc];
    }

    @Override
    double limit(double[] factors) {
      return freqs[doc] * factor(doc / BLOCK, factors);
    }

    @Override
    long cost() {
      return count;
    }

    @Override
    double bound(double[] factors) {
      return bound(0, docs.size() - 1, factors);
    }

    @Override
    double bound(int from, int to, double[] factors) {
      double bound = 0;
      for (int block = from / BLOCK; block <= to / BLOCK && block < greatest.length; block++) {
        bound = Math.max(bound, greatest[block] * factor(block, factors));
      }
      return bound;
    }

    @Override
    boolean hasCheapBounds() {
      return true;
    }

    @Override
    int blockEnd(int from) {
      return Math.min(from | BLOCK - 1, docs.size() - 1);
    }

    @Override
    void addTo(DocBits bits) {
      bits.or(docs);
    }

    @Override
    boolean addsBlocks() {
      return true;
    }
  }
}
