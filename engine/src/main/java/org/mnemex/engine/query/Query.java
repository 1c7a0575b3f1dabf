package org.mnemex.engine.query;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What is asked of an index. */
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

  /** Documents that do not match. Never scores. */
  record Not(Query clause) implements Query {}

  /**
   * A word, analysed by each field's query analyser. A word that becomes several tokens is a phrase
   * of them. A word that some field drops as a stopword need not be found.
   *
   * @param fields weight by field name, text fields or exact ones
   * @param prefix whether the word may be the beginning of a longer one
   */
  record Word(Map<String, Double> fields, String text, boolean prefix) implements Query {
    public Word {
      fields = Map.copyOf(fields);
    }
  }

  /** Words one behind the other in one field, holes of stopwords kept. */
  record Phrase(Map<String, Double> fields, String text) implements Query {
    public Phrase {
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

  /** Documents with any value in the field. */
  record Exists(String field) implements Query {}

  /** Both, without nesting more than needed. */
  static Query and(Query a, Query b) {
    if (a instanceof Everything) {
      return b;
    }
    return b instanceof Everything ? a : new AllOf(List.of(a, b));
  }
}
