package org.mnemex.engine.suggest;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.search.Searched;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.EditDistance;

/**
 * "Did you mean": words that stand in no document that the filter lets through, or in very few,
 * each with the nearest word that does; two of them as one word, or one as two, if these are there.
 */
public final class Correction {
  private static final int MAX_WORDS = 16;
  private static final int MIN_LETTERS = 3;
  private static final int CANDIDATES = 12;

  /** Longer words are not split beyond this length. */
  private static final int MAX_SPLIT = 30;

  /** Phrases are compared up to so many documents. */
  private static final int COUNTED = 100;

  private static final int EXAMPLES = 3;

  /** A word with fewer documents than asked for is only replaced by one with so many times more. */
  private static final int TIMES_MORE = 10;

  private final Searched searched;
  private final List<Field> fields;
  private final Query filter;
  private final Budget budget;
  private final int least;

  private Correction(
      Searched searched, List<Field> fields, Query filter, SearchLimits limits, int least) {
    this.least = least;
    this.searched = searched;
    this.fields = fields;
    this.filter = filter;
    this.budget = new Budget(limits, System::nanoTime, searched.documents());
  }

  /**
   * The text with words replaced that cannot be found, or null if there is nothing better.
   *
   * @param request text, the fields whose words may be meant (stored text fields), and the filter
   * @param least a word that stands in so many documents is what was meant, from 1
   */
  public static @Nullable String of(Searched searched, SuggestRequest request, int least) {
    List<Field> fields = new ArrayList<>();
    for (String name : request.fields()) {
      Field field = searched.schema().field(name);
      if (field.type() == FieldType.TEXT && field.hasTerms() && field.isStored()) {
        fields.add(field);
      }
    }
    return new Correction(searched, fields, request.filter(), request.limits(), least)
        .correct(request.text());
  }

  private @Nullable String correct(String text) {
    List<String> parts = new ArrayList<>(List.of(text.split("(?<=\\s)|(?=\\s)")));
    boolean changed = join(parts);
    int words = 0;
    for (int i = 0; i < parts.size(); i++) {
      String part = parts.get(i);
      if (!part.isBlank() && words++ < MAX_WORDS && isWord(part)) {
        String better = better(part);
        changed |= better != null;
        parts.set(i, better == null ? part : better);
      }
    }
    return changed ? String.join("", parts) : null;
  }

  /** Makes one word of two neighbours of which one is not there, if the whole is. */
  private boolean join(List<String> parts) {
    boolean joined = false;
    for (int i = 0; i + 2 < parts.size() && i < 2 * MAX_WORDS; i++) {
      String first = parts.get(i);
      String second = parts.get(i + 2);
      if (parts.get(i + 1).isBlank()
          && !first.isBlank()
          && !second.isBlank()
          && isWord(first)
          && isWord(second)
          && documents(first + second) > 0
          && (documents(first) == 0 || documents(second) == 0)) {
        parts.set(i, first + second);
        parts.subList(i + 1, i + 3).clear();
        joined = true;
      }
    }
    return joined;
  }

  private @Nullable String better(String word) {
    long documents = documents(word);
    if (word.length() < MIN_LETTERS || documents >= least) {
      return null;
    }
    String split = documents == 0 ? split(word) : null;
    return split == null ? nearest(word, documents) : split;
  }

  /** Two words that stand one after the other somewhere, in the place of one. */
  private @Nullable String split(String word) {
    Map<String, Double> weights = weights();
    List<String> twos = new ArrayList<>();
    for (int at = word.offsetByCodePoints(0, 1);
        !weights.isEmpty() && at < Math.min(word.length(), MAX_SPLIT);
        at = word.offsetByCodePoints(at, 1)) {
      twos.add(word.substring(0, at) + " " + word.substring(at));
    }
    List<Long> documents =
        counts(twos.stream().<Query>map(two -> new Query.Phrase(weights, two)).toList(), COUNTED);
    String best = null;
    long most = 0;
    for (int i = 0; i < twos.size(); i++) {
      if (documents.get(i) > most) {
        most = documents.get(i);
        best = twos.get(i);
      }
    }
    return best;
  }

  /** Letters, in many scripts with marks on them. */
  private static boolean isWord(String part) {
    return part.codePoints()
        .allMatch(
            point ->
                Character.isLetter(point)
                    || Character.getType(point) == Character.NON_SPACING_MARK
                    || Character.getType(point) == Character.COMBINING_SPACING_MARK);
  }

  private Map<String, Double> weights() {
    Map<String, Double> weights = new HashMap<>();
    fields.forEach(field -> weights.put(field.name(), 1.0));
    return weights;
  }

  /** In how many documents a word stands, counted up to what matters. */
  private long documents(String word) {
    Map<String, Double> weights = weights();
    return weights.isEmpty()
        ? least
        : counts(List.of(new Query.Word(weights, word, false)), least).getFirst();
  }

  /** How many documents match each of some queries, counted up to what matters. */
  private List<Long> counts(List<Query> queries, int most) {
    return searched.counts(
        queries.stream().map(query -> request(query, List.of(), 0)).toList(), most);
  }

  private SearchRequest request(Query query, List<String> show, int size) {
    return new SearchRequest(query, filter, null, 0, size, List.of(), Set.copyOf(show), List.of())
        .within(budget.left());
  }

  private record Candidate(String word, int distance, long documents) {}

  /**
   * A word as it is written somewhere.
   *
   * @param term what it is in the index
   */
  private record Written(String word, int distance, String term) {}

  /**
   * @param documents in how many it stands
   */
  private @Nullable String nearest(String word, long documents) {
    List<Candidate> candidates = new ArrayList<>();
    for (Field field : fields) {
      candidates(field, word, candidates);
    }
    return candidates.stream()
        .filter(candidate -> candidate.documents() >= TIMES_MORE * documents)
        .min(
            Comparator.comparingInt(Candidate::distance)
                .thenComparing(Comparator.comparingLong(Candidate::documents).reversed())
                .thenComparing(Candidate::word))
        .map(Candidate::word)
        .orElse(null);
  }

  /** Looks at documents with similar words, and takes the words as they are written there. */
  private void candidates(Field field, String word, List<Candidate> candidates) {
    List<Written> all = new ArrayList<>();
    Query similar = Edits.word(Map.of(field.name(), 1.0), word, false, CANDIDATES);
    for (SearchResult.Hit hit :
        searched
            .search(request(similar, List.of(field.name()), EXAMPLES * CANDIDATES).countingUpTo(1))
            .hits()) {
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        if (field.analyser() == null) {
          continue;
        }
        for (AnalysedToken token : field.analyser().tokens(text)) {
          String written = text.substring(token.start(), token.end()).toLowerCase(Locale.ROOT);
          int distance = EditDistance.between(word.toLowerCase(Locale.ROOT), written);
          if (distance > 0 && distance <= Math.max(1, Edits.of(word))) {
            all.add(new Written(written, distance, token.text()));
          }
        }
      }
    }
    Map<String, Long> having =
        searched.having(field, all.stream().map(Written::term).distinct().toList(), budget);
    all.forEach(
        one ->
            candidates.add(
                new Candidate(one.word, one.distance, having.getOrDefault(one.term, 0L))));
  }
}
