package org.mnemex.engine.search;

import java.nio.ByteBuffer;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;

/**
 * A query made ready for an edition: texts analysed, statistics looked up. The same for all
 * segments.
 */
sealed interface Plan {
  /** About how many of so many documents match. */
  default long expected(long documents) {
    return switch (this) {
      case Words words -> WordMatcher.having(documents, words.idf);
      case All all ->
          all.required.stream().mapToLong(one -> one.expected(documents)).min().orElse(documents);
      case Any any -> sum(any.clauses, documents);
      case Some some -> sum(some.clauses, documents);
      case Scaled scaled -> scaled.plan.expected(documents);
      case Filter filter -> documents;
    };
  }

  /** Whether several of many clauses have to match. */
  default boolean wantsSome() {
    return this instanceof Some
        || this instanceof All all && all.required.stream().anyMatch(Some.class::isInstance);
  }

  private static long sum(List<Plan> plans, long documents) {
    return Math.min(documents, plans.stream().mapToLong(one -> one.expected(documents)).sum());
  }

  /**
   * A word or words in one or several fields, scored as one.
   *
   * @param what what it asks for, for explanations
   */
  record Words(String what, List<Part> parts, double idf) implements Plan {}

  /** What all of {@code required} match; {@code optional} ones only score. */
  record All(List<Plan> required, List<Plan> optional) implements Plan {}

  /** What any of the clauses match. */
  record Any(List<Plan> clauses) implements Plan {}

  /** What at least so many of the clauses match: more than one, and not all of them. */
  record Some(int least, List<Plan> clauses) implements Plan {}

  /** Scores multiplied. */
  record Scaled(Plan plan, double factor) implements Plan {}

  /** What only filters. */
  record Filter(Query query) implements Plan {}

  /**
   * Something in one field.
   *
   * @param weight of the field
   */
  record Part(Field field, double weight, Source source) {}

  /** What is looked for in a field. */
  sealed interface Source {}

  /** One term. */
  record Term(byte[] term) implements Source {}

  /** Terms that a rule describes. */
  record Terms(TermRule rule) implements Source {}

  /** Words that stand in a certain way to one another. */
  record Positions(List<Unit> units, PositionMatch match) implements Source {
    /** Whether two of them may stand at the same position. */
    boolean shared() {
      Set<ByteBuffer> seen = new HashSet<>();
      for (Unit unit : units) {
        Set<ByteBuffer> own = new HashSet<>();
        for (Way way : unit.ways) {
          if (way.slots.getFirst().beginning != null) {
            return units.size() > 1;
          }
          way.slots.getFirst().terms.forEach(term -> own.add(ByteBuffer.wrap(term)));
        }
        if (own.stream().anyMatch(seen::contains)) {
          return true;
        }
        seen.addAll(own);
      }
      return false;
    }
  }

  /**
   * What stands for one word of the query: a term, or several one after the other.
   *
   * @param ways alternatives
   * @param length how many positions the longest of them covers
   */
  record Unit(List<Way> ways, int length) {}

  /**
   * Terms in their places, in which nothing else may stand for them.
   *
   * @param offsets of the slots from the first
   */
  record Way(List<Slot> slots, int[] offsets) {}

  /**
   * One place.
   *
   * @param terms alternatives
   * @param beginning a rule for more of them; null: none
   */
  record Slot(List<byte[]> terms, @Nullable TermRule beginning) {}
}
