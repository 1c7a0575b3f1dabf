package org.mnemex.engine.query;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A query.
 *
 * <p>Queries over text name their fields with weights; a word that stands in several fields counts
 * once. Everything else only filters and scores 0.
 */
public sealed interface Query {
  /** Every document. */
  record Everything() implements Query {}

  /** No document. */
  record Nothing() implements Query {}

  /** Documents that match all clauses; of no clauses: every document. */
  record AllOf(List<Query> clauses) implements Query {
    public AllOf {
      clauses = List.copyOf(clauses);
    }
  }

  /** Documents that match at least one clause; of no clauses: none. */
  record AnyOf(List<Query> clauses) implements Query {
    public AnyOf {
      clauses = List.copyOf(clauses);
    }
  }

  /**
   * Documents that match at least a number of clauses; more matches score higher. Words that some
   * field drops are not counted.
   */
  record Some(Wanted wanted, List<Query> clauses) implements Query {
    public Some {
      clauses = List.copyOf(clauses);
    }
  }

  /** Documents that do not match. Never scores. */
  record Not(Query clause) implements Query {}

  /** Like {@link Not}; but an empty clause, like a lone stopword, excludes nothing. */
  record Unless(Query clause) implements Query {}

  /**
   * Documents that match, as a condition: an empty query, like a lone stopword, matches every
   * document. Never scores.
   */
  record Holds(Query query) implements Query {}

  /** Documents that match {@code query}; those that match {@code preferred} as well score more. */
  record Prefer(Query query, Query preferred) implements Query {}

  /** The same documents, their scores multiplied by a weight above 0. */
  record Weighted(Query query, double weight) implements Query {
    public Weighted {
      if (!(weight > 0) || Double.isInfinite(weight)) {
        throw new IllegalArgumentException("weight must be above 0, not " + weight);
      }
    }
  }

  /**
   * A word, analysed by each field's query analyser. A word that becomes several tokens is a phrase
   * of them; tokens at the same position are alternatives. A word that some field drops as a
   * stopword need not be found.
   *
   * @param fields weight by field name, text fields or exact ones
   * @param prefix whether the word may be the beginning of a longer one
   */
  record Word(Map<String, Double> fields, String text, boolean prefix) implements Query {
    public Word {
      fields = Map.copyOf(fields);
    }
  }

  /** A term of a text field as it is in the index, not analysed. */
  record Term(String field, String term) implements Query {}

  /**
   * Consecutive words in one field, with holes for stopwords.
   *
   * @param distance how many positions, in all, the words may be out of place; at most 99
   * @param prefix whether the last word may be the beginning of a longer one
   */
  record Phrase(Map<String, Double> fields, String text, int distance, boolean prefix)
      implements Query {
    public Phrase {
      fields = Map.copyOf(fields);
    }

    /** An exact phrase. */
    public Phrase(Map<String, Double> fields, String text) {
      this(fields, text, 0, false);
    }

    /** Finished words. */
    public Phrase(Map<String, Double> fields, String text, int distance) {
      this(fields, text, distance, false);
    }
  }

  /**
   * Words close to each other in one field.
   *
   * @param distance the most words that may stand between the first and the last of them; at most
   *     99
   * @param ordered whether they must stand in the order given
   */
  record Near(Map<String, Double> fields, List<String> words, int distance, boolean ordered)
      implements Query {
    public Near {
      fields = Map.copyOf(fields);
      words = List.copyOf(words);
    }
  }

  /** Terms that a pattern with {@code *} (any text) and {@code ?} (any one character) describes. */
  record Wildcard(Map<String, Double> fields, String pattern) implements Query {
    public Wildcard {
      fields = Map.copyOf(fields);
    }
  }

  /**
   * Words that differ from the one given by few edits: insertions, deletions, replacements and
   * swaps of neighbours. Fewer edits score higher.
   *
   * @param edits 0, 1 or 2
   * @param same how many characters at the beginning must be right
   * @param prefix whether the word may be the beginning of a longer one
   * @param most the maximum number of terms of a segment, those with the fewest edits and most
   *     documents; 0: all
   */
  record Typo(
      Map<String, Double> fields, String text, int edits, int same, boolean prefix, int most)
      implements Query {
    /** Most edits. */
    public static final int MAX_EDITS = 2;

    /** All terms. */
    public Typo(Map<String, Double> fields, String text, int edits, int same, boolean prefix) {
      this(fields, text, edits, same, prefix, 0);
    }

    public Typo {
      fields = Map.copyOf(fields);
      if (edits < 0 || edits > MAX_EDITS) {
        throw new IllegalArgumentException("edits are 0, 1 or 2, not " + edits);
      }
    }
  }

  /**
   * Whole terms that a regular expression describes; see {@link PatternText} for what it may be.
   */
  record Pattern(Map<String, Double> fields, String expression) implements Query {
    public Pattern {
      fields = Map.copyOf(fields);
    }
  }

  /** Documents with one of the values. */
  record OneOf(String field, List<Object> values) implements Query {
    public OneOf {
      values = List.copyOf(values);
    }
  }

  /** Documents with a value of an exact field that begins with {@code prefix}. */
  record StartsWith(String field, String prefix) implements Query {}

  /** Documents with a value between two bounds; null leaves a side open. */
  record Range(
      String field, @Nullable Object from, boolean withFrom, @Nullable Object to, boolean withTo)
      implements Query {}

  /** The documents of some keys. */
  record Keys(List<String> keys) implements Query {
    public Keys {
      keys = List.copyOf(keys);
    }
  }

  /** Documents with any value in the field. */
  record Exists(String field) implements Query {}

  /** Documents whose place lies in an area. */
  record Within(String field, Area area) implements Query {}

  /**
   * Documents with a child row for which the condition holds.
   *
   * @param field a group field
   * @param condition about the group's own fields, by their full names
   */
  record Group(String field, Query condition) implements Query {}

  /** Both, without nesting more than needed. */
  static Query and(Query a, Query b) {
    if (a instanceof Everything) {
      return b;
    }
    return b instanceof Everything ? a : new AllOf(List.of(a, b));
  }
}
