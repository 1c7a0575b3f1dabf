package org.mnemex.engine.search;

import java.util.List;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;

/**
 * A query made ready for an edition: texts analysed, statistics looked up. The same for all
 * segments.
 */
sealed interface Plan {
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

  /**
   * Words that stand in a certain way to one another.
   *
   * @param words one or more alternatives a word
   */
  record Positions(List<List<byte[]>> words, PositionMatch match) implements Source {
    /** Whether two words have an alternative in common. */
    boolean shared() {
      for (int i = 0; i < words.size(); i++) {
        for (int j = i + 1; j < words.size(); j++) {
          for (byte[] term : words.get(i)) {
            if (words.get(j).stream().anyMatch(other -> java.util.Arrays.equals(term, other))) {
              return true;
            }
          }
        }
      }
      return false;
    }
  }
}
