package org.mnemex.engine.suggest;

import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
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

  /** In how many documents words stand. */
  private final Map<String, Long> documents = new HashMap<>();

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
    count(parts);
    boolean changed = join(parts);
    List<Integer> places = places(parts);
    List<String> rare =
        places.stream()
            .map(parts::get)
            .filter(word -> word.length() >= MIN_LETTERS && documents(word) < least)
            .distinct()
            .toList();
    Map<String, String> better = better(rare);
    for (int place : places) {
      String word = parts.get(place);
      changed |= better.containsKey(word);
      parts.set(place, better.getOrDefault(word, word));
    }
    return changed ? String.join("", parts) : null;
  }

  /** Where the words are that may be replaced. */
  private static List<Integer> places(List<String> parts) {
    List<Integer> places = new ArrayList<>();
    int words = 0;
    for (int i = 0; i < parts.size(); i++) {
      if (!parts.get(i).isBlank() && words++ < MAX_WORDS && isWord(parts.get(i))) {
        places.add(i);
      }
    }
    return places;
  }

  /** Counts the documents of all words, and of what neighbours make together, at once. */
  private void count(List<String> parts) {
    Set<String> words = new LinkedHashSet<>();
    places(parts).forEach(place -> words.add(parts.get(place)));
    for (int i = 0; mayJoin(parts, i); i++) {
      if (isPair(parts, i)) {
        words.addAll(List.of(parts.get(i), parts.get(i + 2), parts.get(i) + parts.get(i + 2)));
      }
    }
    Map<String, Double> weights = weights();
    List<String> all = List.copyOf(words);
    List<Long> counts =
        weights.isEmpty()
            ? Collections.nCopies(all.size(), (long) least)
            : counts(
                all.stream().<Query>map(word -> new Query.Word(weights, word, false)).toList(),
                least);
    for (int i = 0; i < all.size(); i++) {
      documents.put(all.get(i), counts.get(i));
    }
  }

  /** In how many documents a word stands, counted up to what matters. */
  private long documents(String word) {
    return Objects.requireNonNull(documents.get(word));
  }

  private static boolean mayJoin(List<String> parts, int first) {
    return first + 2 < parts.size() && first < 2 * MAX_WORDS;
  }

  private static boolean isPair(List<String> parts, int first) {
    return parts.get(first + 1).isBlank()
        && !parts.get(first).isBlank()
        && !parts.get(first + 2).isBlank()
        && isWord(parts.get(first))
        && isWord(parts.get(first + 2));
  }

  /** Makes one word of two neighbours of which one is not there, if the whole is. */
  private boolean join(List<String> parts) {
    boolean joined = false;
    for (int i = 0; mayJoin(parts, i); i++) {
      if (!isPair(parts, i)) {
        continue;
      }
      String first = parts.get(i);
      String second = parts.get(i + 2);
      if (documents(first + second) > 0 && (documents(first) == 0 || documents(second) == 0)) {
        parts.set(i, first + second);
        parts.subList(i + 1, i + 3).clear();
        joined = true;
      }
    }
    return joined;
  }

  /** Something better for each of some words for which there is something. */
  private Map<String, String> better(List<String> words) {
    Map<String, String> better = new HashMap<>(split(words));
    List<String> others = words.stream().filter(word -> !better.containsKey(word)).toList();
    Map<String, List<Candidate>> candidates = candidates(others);
    for (String word : others) {
      candidates.getOrDefault(word, List.of()).stream()
          .filter(candidate -> candidate.documents >= TIMES_MORE * documents(word))
          .min(
              Comparator.comparingInt(Candidate::distance)
                  .thenComparing(Comparator.comparingLong(Candidate::documents).reversed())
                  .thenComparing(Candidate::word))
          .ifPresent(candidate -> better.put(word, candidate.word));
    }
    return better;
  }

  /** Two words that stand one after the other somewhere, in the place of one that is nowhere. */
  private Map<String, String> split(List<String> words) {
    Map<String, Double> weights = weights();
    List<String> ones = new ArrayList<>();
    List<String> twos = new ArrayList<>();
    for (String word : words) {
      for (int at = word.offsetByCodePoints(0, 1);
          documents(word) == 0 && !weights.isEmpty() && at < Math.min(word.length(), MAX_SPLIT);
          at = word.offsetByCodePoints(at, 1)) {
        ones.add(word);
        twos.add(word.substring(0, at) + " " + word.substring(at));
      }
    }
    List<Long> documents =
        counts(twos.stream().<Query>map(two -> new Query.Phrase(weights, two)).toList(), COUNTED);
    Map<String, String> best = new HashMap<>();
    Map<String, Long> most = new HashMap<>();
    for (int i = 0; i < twos.size(); i++) {
      if (documents.get(i) > most.getOrDefault(ones.get(i), 0L)) {
        most.put(ones.get(i), documents.get(i));
        best.put(ones.get(i), twos.get(i));
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

  /** How many documents match each of some queries, counted up to what matters. */
  private List<Long> counts(List<Query> queries, int most) {
    return searched.counts(
        queries.stream().map(query -> request(query, List.of(), 0)).toList(), most, budget);
  }

  private SearchRequest request(Query query, List<String> show, int size) {
    return new SearchRequest(query, filter, null, 0, size, List.of(), Set.copyOf(show), List.of());
  }

  private record Candidate(String word, int distance, long documents) {}

  /**
   * A word as it is written somewhere.
   *
   * @param typed the word that it is similar to
   * @param term what it is in the index
   */
  private record Written(String typed, String word, int distance, Field field, String term) {}

  /** Looks at documents with similar words, and takes the words as they are written there. */
  private Map<String, List<Candidate>> candidates(List<String> words) {
    List<SearchRequest> requests = new ArrayList<>();
    for (String word : words) {
      for (Field field : fields) {
        Query similar = Edits.word(Map.of(field.name(), 1.0), word, false, CANDIDATES);
        requests.add(
            request(similar, List.of(field.name()), EXAMPLES * CANDIDATES).countingUpTo(1));
      }
    }
    List<SearchResult> found = searched.search(requests, budget);
    List<Written> all = new ArrayList<>();
    for (int i = 0; i < found.size(); i++) {
      all.addAll(
          written(words.get(i / fields.size()), fields.get(i % fields.size()), found.get(i)));
    }
    Map<String, Set<String>> terms = new HashMap<>();
    all.forEach(
        one -> terms.computeIfAbsent(one.field.name(), field -> new HashSet<>()).add(one.term));
    Map<String, Map<String, Long>> having = searched.having(terms, budget);
    Map<String, List<Candidate>> candidates = new HashMap<>();
    for (Written one : all) {
      long documents = having.getOrDefault(one.field.name(), Map.of()).getOrDefault(one.term, 0L);
      candidates
          .computeIfAbsent(one.typed, typed -> new ArrayList<>())
          .add(new Candidate(one.word, one.distance, documents));
    }
    return candidates;
  }

  /** The words in the values of a field that are similar to one that was typed. */
  private static List<Written> written(String typed, Field field, SearchResult found) {
    List<Written> all = new ArrayList<>();
    for (SearchResult.Hit hit : found.hits()) {
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        if (field.analyser() == null) {
          continue;
        }
        for (AnalysedToken token : field.analyser().tokens(text)) {
          String word = text.substring(token.start(), token.end()).toLowerCase(Locale.ROOT);
          int distance = EditDistance.between(typed.toLowerCase(Locale.ROOT), word);
          if (distance > 0 && distance <= Math.max(1, Edits.of(typed))) {
            all.add(new Written(typed, word, distance, field, token.text()));
          }
        }
      }
    }
    return all;
  }
}
