package org.mnemex.engine.search;

import org.mnemex.engine.read.Postings;

/** Where something stands in one field: documents in order, with how often. */
abstract class Occurrences {
  static final int END = Postings.END;

  /** The current document; -1 before the first, {@link #END} behind the last. */
  abstract int doc();

  abstract int next();

  abstract int freq();

  /** Goes to the first document at or after {@code target}. */
  int advance(int target) {
    int doc = doc();
    while (doc < target) {
      doc = next();
    }
    return doc;
  }

  /** One term. */
  static Occurrences of(Postings postings) {
    return new Occurrences() {
      @Override
      int doc() {
        return postings.doc();
      }

      @Override
      int next() {
        return postings.next();
      }

      @Override
      int freq() {
        return postings.freq();
      }
    };
  }

  /** Frequencies by document, 0 where there is no occurrence. */
  static Occurrences of(int[] freqByDoc) {
    return new Occurrences() {
      private int doc = -1;

      @Override
      int doc() {
        return doc;
      }

      @Override
      int next() {
        for (int at = doc + 1; at < freqByDoc.length; at++) {
          if (freqByDoc[at] > 0) {
            return doc = at;
          }
        }
        return doc = END;
      }

      @Override
      int freq() {
        return freqByDoc[doc];
      }
    };
  }
}
