package org.mnemex.engine.shard;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Something that a search has to know about all documents. Facts about shards are added up. */
public sealed interface Fact {
  /**
   * The same about the documents of both.
   *
   * @param other of the same kind
   */
  Fact plus(Fact other);

  /** How many documents there are, or have something. */
  record Count(long documents) implements Fact {
    @Override
    public Fact plus(Fact other) {
      return new Count(documents + ((Count) other).documents);
    }
  }

  /**
   * Lengths of a text field.
   *
   * @param total in words
   * @param documents how many have the field
   */
  record Lengths(long total, long documents) implements Fact {
    @Override
    public Fact plus(Fact other) {
      Lengths theirs = (Lengths) other;
      return new Lengths(total + theirs.total, documents + theirs.documents);
    }
  }

  /**
   * Terms of which the best have to be chosen for all documents.
   *
   * @param most how many are to be chosen
   * @param exact those that are certain to be better than the others; none if that is not known
   * @param all of a shard with as many exact ones as are to be chosen: none
   */
  record Terms(int most, List<Term> exact, List<Term> all) implements Fact {
    @Override
    public Fact plus(Fact other) {
      Terms theirs = (Terms) other;
      return new Terms(most, added(exact, theirs.exact), added(all, theirs.all));
    }

    /** The chosen ones, the best first. */
    public List<Term> chosen() {
      return (exact.size() < most ? all : exact)
          .stream().sorted(Term.BEST_FIRST).limit(most).toList();
    }

    private static List<Term> added(List<Term> some, List<Term> others) {
      Map<String, Term> terms = new HashMap<>();
      some.forEach(term -> terms.put(term.text, term));
      others.forEach(
          term ->
              terms.merge(
                  term.text,
                  term,
                  (a, b) -> new Term(a.text, a.strength, a.documents + b.documents)));
      return new ArrayList<>(terms.values());
    }
  }

  /**
   * A term.
   *
   * @param strength 1, or less for what is not quite what was asked for
   * @param documents how many have it
   */
  record Term(String text, float strength, long documents) {
    public static final Comparator<Term> BEST_FIRST =
        Comparator.comparingDouble(Term::strength)
            .thenComparingLong(Term::documents)
            .reversed()
            .thenComparing(Term::text);
  }
}
