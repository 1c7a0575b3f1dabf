package org.mnemex.engine.search;

import java.util.List;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.Postings;

/** Walks through the documents of a segment that match, in order, and scores them. */
abstract class Matcher {
  static final int END = Postings.END;

  /** The current document; -1 before the first. */
  protected int doc = -1;

  final int doc() {
    return doc;
  }

  /** Goes to the next match, or to {@link #END}. */
  abstract int next();

  /** Relevance of the current document. */
  abstract double score();

  /** Goes to the first match at or after {@code target}. */
  int advance(int target) {
    while (doc < target) {
      next();
    }
    return doc;
  }

  /** Members of a set; scores 0. */
  static final class Bits extends Matcher {
    private final DocBits bits;

    Bits(DocBits bits) {
      this.bits = bits;
    }

    @Override
    int next() {
      return advance(doc + 1);
    }

    @Override
    int advance(int target) {
      if (doc < target) {
        int found = bits.next(target);
        doc = found < 0 ? END : found;
      }
      return doc;
    }

    @Override
    double score() {
      return 0;
    }
  }

  /** What all of {@code required} match; {@code optional} ones only add to the score. */
  static final class All extends Matcher {
    private final List<Matcher> required;
    private final List<Matcher> optional;

    All(List<Matcher> required, List<Matcher> optional) {
      this.required = required;
      this.optional = optional;
    }

    @Override
    int next() {
      int target = required.getFirst().next();
      while (target != END) {
        int agreed = target;
        for (Matcher matcher : required) {
          agreed = matcher.advance(target);
          if (agreed != target) {
            break;
          }
        }
        if (agreed == target) {
          return doc = target;
        }
        target = agreed == END ? END : required.getFirst().advance(agreed);
      }
      return doc = END;
    }

    @Override
    double score() {
      double sum = 0;
      for (Matcher matcher : required) {
        sum += matcher.score();
      }
      for (Matcher matcher : optional) {
        if (matcher.advance(doc) == doc) {
          sum += matcher.score();
        }
      }
      return sum;
    }
  }

  /** What any of the clauses match. */
  static final class Any extends Matcher {
    private final List<Matcher> clauses;

    Any(List<Matcher> clauses) {
      this.clauses = clauses;
    }

    @Override
    int next() {
      int least = END;
      for (Matcher clause : clauses) {
        int at = clause.doc() <= doc ? clause.next() : clause.doc();
        least = Math.min(least, at);
      }
      return doc = least;
    }

    @Override
    double score() {
      double sum = 0;
      for (Matcher clause : clauses) {
        if (clause.doc() == doc) {
          sum += clause.score();
        }
      }
      return sum;
    }
  }
}
