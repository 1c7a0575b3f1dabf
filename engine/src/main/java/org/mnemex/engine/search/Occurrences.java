package org.mnemex.engine.search;

import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.Postings;

/**
 * Occurrences in one field: documents in order, with frequencies. Bounds say how much of frequency
 * × factor by length code a document can have at most.
 */
abstract class Occurrences {
  static final int END = Postings.END;

  /** The current document; -1 before the first, {@link #END} after the last. */
  abstract int doc();

  abstract int next();

  /** Goes to the first document at or after {@code target}; stays if it is there already. */
  abstract int advance(int target);

  /** How often, or how strongly, in the current document. */
  abstract double freq();

  /** A bound for the current document that can be had without its length. */
  double limit(double[] factors) {
    return bound(factors);
  }

  /** About how many documents there are. */
  abstract long cost();

  /** A bound over all documents. */
  abstract double bound(double[] factors);

  /** A bound over the documents in a range; ranges must not go back. */
  double bound(int from, int to, double[] factors) {
    return bound(factors);
  }

  /** Adds all documents to a set. Only before the first step; it ends with that. */
  void addTo(DocBits bits) {
    for (int at = next(); at != END; at = next()) {
      bits.set(at);
    }
  }

  /** Whether {@link #addTo} reads many documents at a time. */
  boolean addsBlocks() {
    return false;
  }

  /** Whether bounds over few documents cost next to nothing. */
  boolean hasCheapBounds() {
    return false;
  }

  /** The last document for which bounds stay the same as at {@code from}. */
  int blockEnd(int from) {
    return END;
  }

  /** One term. */
  static final class Term extends Occurrences {
    private final Postings postings;

    Term(Postings postings) {
      this.postings = postings;
    }

    @Override
    int doc() {
      return postings.doc();
    }

    @Override
    int next() {
      return postings.next();
    }

    @Override
    int advance(int target) {
      return postings.advance(target);
    }

    @Override
    double freq() {
      return postings.freq();
    }

    @Override
    double limit(double[] factors) {
      return postings.limit(factors);
    }

    @Override
    long cost() {
      return postings.count();
    }

    @Override
    double bound(double[] factors) {
      return postings.bound(factors);
    }

    @Override
    double bound(int from, int to, double[] factors) {
      double greatest = 0;
      int at = from;
      while (true) {
        greatest = Math.max(greatest, postings.bound(at, factors));
        int end = postings.blockEnd(at);
        if (end >= to) {
          return greatest;
        }
        at = end + 1;
      }
    }

    @Override
    int blockEnd(int from) {
      return postings.blockEnd(from);
    }

    @Override
    void addTo(DocBits bits) {
      postings.addTo(bits);
    }

    @Override
    boolean addsBlocks() {
      return true;
    }
  }
}
