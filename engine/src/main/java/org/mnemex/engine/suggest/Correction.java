package org.mnemex.engine.suggest;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Budget;
import org.mnemex.engine.SearchLimits;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.SearchResult;
import org.mnemex.engine.query.Edits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.search.Searcher;
import org.mnemex.engine.text.AnalysedToken;
import org.mnemex.engine.text.EditDistance;

/**
 * "Did you mean": words that stand in no document that the filter lets through, each with the
 * nearest word that does.
 */
public final class Correction {
  private static final int MAX_WORDS = 16;
  private static final int LEAST_LETTERS = 3;
  private static final int CANDIDATES = 12;
  private static final int EXAMPLES = 3;

  private final Snapshot snapshot;
  private final List<Field> fields;
  private final Query filter;
  private final Budget budget;
  private final @Nullable FilterCache cache;

  private Correction(
      Snapshot snapshot,
      List<Field> fields,
      Query filter,
      SearchLimits limits,
      @Nullable FilterCache cache) {
    this.snapshot = snapshot;
    this.fields = fields;
    this.filter = filter;
    this.budget = new Budget(limits, System::nanoTime, snapshot.documents());
    this.cache = cache;
  }

  /**
   * The text with words replaced that cannot be found, or null if there is nothing better.
   *
   * @param request text, the fields whose words may be meant (stored text fields), and the filter
   */
  public static @Nullable String of(
      Snapshot snapshot, SuggestRequest request, @Nullable FilterCache cache) {
    List<Field> fields = new ArrayList<>();
    for (String name : request.fields()) {
      Field field = snapshot.schema().field(name);
      if (field.type() == FieldType.TEXT && field.hasTerms() && field.isStored()) {
        fields.add(field);
      }
    }
    return new Correction(snapshot, fields, request.filter(), request.limits(), cache)
        .correct(request.text());
  }

  private @Nullable String correct(String text) {
    StringBuilder out = new StringBuilder();
    boolean changed = false;
    int words = 0;
    for (String part : text.split("(?<=\\s)|(?=\\s)")) {
      String better = null;
      if (!part.isBlank() && words++ < MAX_WORDS && isWord(part)) {
        better = part.length() < LEAST_LETTERS || isThere(part) ? null : nearest(part);
      }
      out.append(better == null ? part : better);
      changed |= better != null;
    }
    return changed ? out.toString() : null;
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

  private boolean isThere(String word) {
    Map<String, Double> weights = new HashMap<>();
    fields.forEach(field -> weights.put(field.name(), 1.0));
    return weights.isEmpty()
        || find(new Query.Word(weights, word, false), List.of(), 1).total() > 0;
  }

  private SearchResult find(Query query, List<String> show, int size) {
    SearchRequest request =
        new SearchRequest(
            query, filter, null, 0, size, List.of(), java.util.Set.copyOf(show), List.of());
    return Searcher.search(snapshot, request.countingUpTo(1).within(budget.left()), cache);
  }

  private record Candidate(String word, int distance, long documents) {}

  private @Nullable String nearest(String word) {
    List<Candidate> candidates = new ArrayList<>();
    for (Field field : fields) {
      candidates(field, word, candidates);
    }
    return candidates.stream()
        .min(
            Comparator.comparingInt(Candidate::distance)
                .thenComparing(Comparator.comparingLong(Candidate::documents).reversed())
                .thenComparing(Candidate::word))
        .map(Candidate::word)
        .orElse(null);
  }

  /** Looks at documents with similar words, and takes the words as they are written there. */
  private void candidates(Field field, String word, List<Candidate> candidates) {
    Query similar = Edits.word(Map.of(field.name(), 1.0), word, false, CANDIDATES);
    for (SearchResult.Hit hit :
        find(similar, List.of(field.name()), EXAMPLES * CANDIDATES).hits()) {
      for (Object value : hit.fields().getOrDefault(field.name(), List.of())) {
        String text = (String) value;
        if (field.analyser() == null) {
          continue;
        }
        for (AnalysedToken token : field.analyser().tokens(text)) {
          String written =
              text.substring(token.start(), token.end()).toLowerCase(java.util.Locale.ROOT);
          int distance = EditDistance.between(word.toLowerCase(java.util.Locale.ROOT), written);
          if (distance > 0 && distance <= Math.max(1, Edits.of(word))) {
            candidates.add(new Candidate(written, distance, documents(field, token.text())));
          }
        }
      }
    }
  }

  private long documents(Field field, String term) {
    long sum = 0;
    for (SegmentView view : snapshot.segments()) {
      Dictionary.Walk walk = view.reader().terms(field).walk();
      sum += walk.seek(term.getBytes(StandardCharsets.UTF_8)) ? walk.number(0) : 0;
    }
    return sum;
  }
}
