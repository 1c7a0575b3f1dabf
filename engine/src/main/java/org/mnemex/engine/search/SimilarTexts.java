package org.mnemex.engine.search;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.AnalysedToken;

/**
 * Makes a query of texts, for what is similar to them: the terms that tell most, which are frequent
 * in the texts and rare elsewhere (the product of both, after Salton and Buckley, "Term-weighting
 * approaches in automatic text retrieval", 1988), each weighted by how much it tells.
 */
public final class SimilarTexts {
  /** Terms that are asked for. */
  private static final int MAX_TERMS = 25;

  /** Terms whose rarity is looked up: the most frequent ones of the texts. */
  private static final int MAX_CANDIDATES = 2_000;

  /** UTF-16 units that are read of each field. */
  private static final int MAX_UNITS = 100_000;

  /** The share of the terms that a document must have. */
  private static final double SHARE = 0.25;

  private SimilarTexts() {}

  private record Candidate(Field field, String term, int frequency) {}

  private record Telling(Candidate candidate, double told) {}

  /**
   * A query for documents with the terms of some texts that tell most.
   *
   * @param fields weight by name of a text field
   * @param texts what is compared, by field
   * @param least in how many documents a term must stand: 2 if the texts are of one of them
   * @return a query that finds nothing if no term tells anything
   * @throws QueryRefusedException if a field cannot be searched
   */
  public static Query query(
      Searched searched,
      Map<String, Double> fields,
      Map<String, List<String>> texts,
      int least,
      SearchLimits limits) {
    long documents = searched.documents();
    Budget budget = new Budget(limits, System::nanoTime, documents);
    List<Candidate> candidates = new ArrayList<>();
    for (String name : new TreeMap<>(texts).keySet()) {
      candidates.addAll(candidates(field(searched.schema(), name), texts.get(name), budget));
    }
    candidates.sort(
        Comparator.comparingInt(Candidate::frequency)
            .reversed()
            .thenComparing(candidate -> candidate.field().name())
            .thenComparing(Candidate::term));
    List<Candidate> looked = candidates.subList(0, Math.min(candidates.size(), MAX_CANDIDATES));
    Map<String, Map<String, Long>> inField = having(searched, looked, budget);
    List<Telling> telling = new ArrayList<>();
    for (Candidate one : looked) {
      long having = inField.getOrDefault(one.field.name(), Map.of()).getOrDefault(one.term, 0L);
      if (having >= least) {
        double told =
            fields.getOrDefault(one.field.name(), 1.0)
                * WordMatcher.score(WordMatcher.idf(documents, having), one.frequency);
        telling.add(new Telling(one, told));
      }
    }
    telling.sort(Comparator.comparingDouble(Telling::told).reversed());
    List<Telling> most = telling.subList(0, Math.min(telling.size(), MAX_TERMS));
    if (most.isEmpty()) {
      return new Query.Nothing();
    }
    double greatest = most.getFirst().told;
    return new Query.Some(
        new Wanted(0, SHARE),
        most.stream()
            .<Query>map(
                one ->
                    new Query.Weighted(
                        new Query.Term(one.candidate.field.name(), one.candidate.term),
                        one.told / greatest))
            .toList());
  }

  /** In how many documents terms stand, by field. */
  private static Map<String, Map<String, Long>> having(
      Searched searched, List<Candidate> candidates, Budget budget) {
    Map<String, List<String>> terms = new LinkedHashMap<>();
    for (Candidate one : candidates) {
      terms.computeIfAbsent(one.field.name(), field -> new ArrayList<>()).add(one.term);
    }
    return searched.having(terms, budget);
  }

  private static Field field(Schema schema, String name) {
    Field field = schema.field(name);
    if (field.type() != FieldType.TEXT || !field.uses().contains(Use.SEARCH)) {
      throw new QueryRefusedException(
          "field '" + name + "' has no searchable text, so nothing is similar to it");
    }
    return field;
  }

  private static List<Candidate> candidates(Field field, List<String> values, Budget budget) {
    Map<String, Integer> frequencies = new HashMap<>();
    int left = MAX_UNITS;
    for (String value : values) {
      String text = value.substring(0, Math.min(left, value.length()));
      left -= text.length();
      for (AnalysedToken token : Objects.requireNonNull(field.analyser()).tokens(text)) {
        budget.step();
        frequencies.merge(token.text(), 1, Integer::sum);
      }
    }
    List<Candidate> candidates = new ArrayList<>();
    frequencies.forEach((term, count) -> candidates.add(new Candidate(field, term, count)));
    return candidates;
  }
}
