package org.mnemex.engine.search;

import java.util.Arrays;
import java.util.List;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.Postings;

/**
 * Iterates over the matching documents of a segment, in order, and scores them. Bounds are never
 * below a score that {@link #score} can give; they are widened by {@link #SLACK} so that this holds
 * of rounded numbers too.
 */
abstract class Matcher {
  static final int END = Postings.END;

  /** The relative difference of sums in different orders is below this. */
  static final double SLACK = 1 + 1e-9;

  /** The current document; -1 before the first. */
  protected int doc = -1;

  final int doc() {
    return doc;
  }

  /** Goes to the next match, or to {@link #END}. */
  int next() {
    return advance(doc + 1);
  }

  /** Goes to the first match at or after {@code target}; stays if it is there already. */
  abstract int advance(int target);

  /** Relevance of the current document. */
  abstract double score();

  /** The greatest score the current document can have, as far as that is known at little cost. */
  double limit() {
    return bound();
  }

  /** The greatest score any document can have. */
  abstract double bound();

  /** The greatest score a document in a range can have; ranges must not go back. */
  double bound(int from, int to) {
    return bound();
  }

  /** Whether bounds over few documents cost next to nothing. */
  boolean hasCheapBounds() {
    return false;
  }

  /** The last document for which bounds stay the same as at {@code from}. */
  int blockEnd(int from) {
    return END;
  }

  /** About how many documents match. */
  abstract long cost();

  /**
   * Adds all matches to a set. Only for a matcher that has not moved yet; it ends with that.
   *
   * @param budget told how many documents were looked at; what is over adds nothing more
   */
  void addTo(DocBits bits, Budget budget) {
    int looked = 0;
    for (int at = next(); at != END; at = next()) {
      bits.set(at);
      if (++looked == Budget.STEP) {
        looked = 0;
        if (!budget.mayContinue(Budget.STEP)) {
          return;
        }
      }
    }
  }

  /** Whether {@link #addTo} reads postings block by block instead of going from match to match. */
  boolean addsBlocks() {
    return false;
  }

  /** Members of a set; scores 0. */
  static final class Bits extends Matcher {
    private final DocBits bits;
    private final long cost;

    Bits(DocBits bits) {
      this.bits = bits;
      this.cost = bits.count();
    }

    @Override
    int advance(int target) {
      if (doc < target) {
        int found = target >= bits.size() ? -1 : bits.next(target);
        doc = found < 0 ? END : found;
      }
      return doc;
    }

    @Override
    double score() {
      return 0;
    }

    @Override
    double bound() {
      return 0;
    }

    @Override
    long cost() {
      return cost;
    }

    @Override
    void addTo(DocBits to, Budget budget) {
      to.or(bits);
    }

    @Override
    boolean addsBlocks() {
      return true;
    }
  }

  /** What all of {@code required} match; {@code optional} ones only add to the score. */
  static final class All extends Matcher {
    /** Going from match to match costs as much as reading so many postings in blocks. */
    private static final int STEP_COST = 16;

    private final Matcher[] required;
    private final Matcher[] rarestFirst;
    private final Matcher[] optional;
    private final Budget budget;
    private double optionalBound;

    All(List<Matcher> required, List<Matcher> optional, Budget budget) {
      this.budget = budget;
      this.required = required.toArray(Matcher[]::new);
      this.optional = optional.toArray(Matcher[]::new);
      this.rarestFirst = this.required.clone();
      Arrays.sort(rarestFirst, (a, b) -> Long.compare(a.cost(), b.cost()));
    }

    @Override
    int advance(int target) {
      if (doc >= target) {
        return doc;
      }
      Matcher lead = rarestFirst[0];
      int wanted = lead.advance(target);
      next:
      while (wanted != END) {
        for (int i = 1; i < rarestFirst.length; i++) {
          int at = rarestFirst[i].advance(wanted);
          if (at != wanted) {
            wanted = at == END || !budget.step() ? END : lead.advance(at);
            continue next;
          }
        }
        return doc = wanted;
      }
      return doc = END;
    }

    @Override
    double score() {
      return withOptional(requiredScore());
    }

    /** What the current document scores without what is optional. */
    double requiredScore() {
      double sum = 0;
      for (Matcher matcher : required) {
        sum += matcher.score();
      }
      return sum;
    }

    /**
     * The score of the current document.
     *
     * @param requiredScore what {@link #requiredScore} says of it
     */
    double withOptional(double requiredScore) {
      double sum = requiredScore;
      for (Matcher matcher : optional) {
        if (matcher.advance(doc) == doc) {
          sum += matcher.score();
        }
      }
      return sum;
    }

    /** The most that what is optional can add in the range of which a bound was asked last. */
    double optionalBound() {
      return optionalBound;
    }

    boolean hasOptional() {
      return optional.length > 0;
    }

    @Override
    double bound() {
      double sum = 0;
      for (Matcher matcher : required) {
        sum += matcher.bound();
      }
      for (Matcher matcher : optional) {
        sum += matcher.bound();
      }
      return sum * SLACK;
    }

    @Override
    double bound(int from, int to) {
      double sum = 0;
      for (Matcher matcher : required) {
        double bound = matcher.bound(from, to);
        sum += bound;
      }
      double added = 0;
      for (Matcher matcher : optional) {
        added += matcher.bound(from, to);
      }
      optionalBound = added * SLACK;
      return (sum + added) * SLACK;
    }

    @Override
    int blockEnd(int from) {
      int end = END;
      for (Matcher matcher : required) {
        end = Math.min(end, matcher.blockEnd(from));
      }
      return end;
    }

    @Override
    long cost() {
      return rarestFirst[0].cost();
    }

    /** Clauses that are alike frequent are read whole; a rare one leads through the others. */
    @Override
    void addTo(DocBits bits, Budget budget) {
      long postings = 0;
      boolean blocks = true;
      for (Matcher matcher : required) {
        postings += matcher.cost();
        blocks &= matcher.addsBlocks();
      }
      if (!blocks || postings > STEP_COST * rarestFirst[0].cost()) {
        super.addTo(bits, budget);
        return;
      }
      DocBits all = DocBits.all(bits.size());
      for (Matcher matcher : rarestFirst) {
        budget.take(bits.size() / 8);
        DocBits own = new DocBits(bits.size());
        matcher.addTo(own, budget);
        all.and(own);
      }
      bits.or(all);
    }
  }

  /** What some of the clauses match; the scores of those that match add up. */
  abstract static class Several extends Matcher {
    final Matcher[] clauses;

    Several(List<Matcher> clauses) {
      this.clauses = clauses.toArray(Matcher[]::new);
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

    @Override
    double bound() {
      double sum = 0;
      for (Matcher clause : clauses) {
        sum += clause.bound();
      }
      return sum * SLACK;
    }

    @Override
    double bound(int from, int to) {
      double sum = 0;
      for (Matcher clause : clauses) {
        sum += clause.bound(from, to);
      }
      return sum * SLACK;
    }

    @Override
    int blockEnd(int from) {
      int end = END;
      for (Matcher clause : clauses) {
        end = Math.min(end, clause.blockEnd(from));
      }
      return end;
    }

    @Override
    long cost() {
      long sum = 0;
      for (Matcher clause : clauses) {
        sum += clause.cost();
      }
      return sum;
    }
  }

  /** What any of the clauses match. */
  static final class Any extends Several {
    Any(List<Matcher> clauses) {
      super(clauses);
    }

    Matcher[] clauses() {
      return clauses;
    }

    @Override
    int advance(int target) {
      if (doc >= target) {
        return doc;
      }
      int least = END;
      for (Matcher clause : clauses) {
        least = Math.min(least, clause.advance(target));
      }
      return doc = least;
    }

    @Override
    void addTo(DocBits bits, Budget budget) {
      for (Matcher clause : clauses) {
        clause.addTo(bits, budget);
      }
    }

    @Override
    boolean addsBlocks() {
      return Arrays.stream(clauses).allMatch(Matcher::addsBlocks);
    }
  }

  /**
   * What at least so many of the clauses match. A document before the place where so many clauses
   * stand, in order, has fewer of them, so all clauses before it go there at once (as the pivot of
   * Broder et al., "Efficient Query Evaluation using a Two-Level Retrieval Process", CIKM 2003).
   */
  static final class Some extends Several {
    /** With fewer than one document of so many to look at, each is looked at by itself. */
    private static final int FEW = 512;

    private final int least;
    private final int[] docs;
    private final Budget budget;

    Some(int least, List<Matcher> clauses, Budget budget) {
      super(clauses);
      this.budget = budget;
      this.least = least;
      this.docs = new int[clauses.size()];
    }

    @Override
    int advance(int target) {
      int wanted = target;
      while (doc < target) {
        int here = 0;
        for (int i = 0; i < docs.length; i++) {
          docs[i] = clauses[i].advance(wanted);
          here += docs[i] == wanted ? 1 : 0;
        }
        if (here >= least) {
          return doc = wanted;
        }
        Arrays.sort(docs);
        int enough = docs[least - 1];
        if (enough == docs[0]) {
          doc = enough;
        } else {
          wanted = budget.step() ? enough : END;
        }
      }
      return doc;
    }

    /** Each document is counted so often at least. */
    @Override
    long cost() {
      return super.cost() / least;
    }

    @Override
    boolean addsBlocks() {
      return Arrays.stream(clauses).allMatch(Matcher::addsBlocks);
    }

    /** Where there is much to look at, clauses are read whole, one after the other. */
    @Override
    void addTo(DocBits bits, Budget budget) {
      if (cost() < bits.size() / FEW || !addsBlocks()) {
        super.addTo(bits, budget);
        return;
      }
      Tally tally = new Tally(bits.size(), clauses.length, budget);
      DocBits own = new DocBits(bits.size());
      for (Matcher clause : clauses) {
        own.keep(0, 0);
        clause.addTo(own, budget);
        tally.add(own);
      }
      bits.or(tally.atLeast(least));
    }
  }

  /** The same documents, scored otherwise. */
  static final class Scaled extends Matcher {
    private final Matcher inner;
    private final double factor;

    Scaled(Matcher inner, double factor) {
      this.inner = inner;
      this.factor = factor;
    }

    @Override
    int advance(int target) {
      return doc = inner.advance(target);
    }

    @Override
    double score() {
      return inner.score() * factor;
    }

    @Override
    double limit() {
      return inner.limit() * factor * SLACK;
    }

    @Override
    double bound() {
      return inner.bound() * factor * SLACK;
    }

    @Override
    double bound(int from, int to) {
      return inner.bound(from, to) * factor * SLACK;
    }

    @Override
    boolean hasCheapBounds() {
      return inner.hasCheapBounds();
    }

    @Override
    int blockEnd(int from) {
      return inner.blockEnd(from);
    }

    @Override
    long cost() {
      return inner.cost();
    }

    @Override
    void addTo(DocBits bits, Budget budget) {
      inner.addTo(bits, budget);
    }

    @Override
    boolean addsBlocks() {
      return inner.addsBlocks();
    }
  }
}
