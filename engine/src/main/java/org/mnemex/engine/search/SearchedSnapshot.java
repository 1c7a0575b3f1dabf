package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/**
 * A snapshot in this process.
 *
 * @param cache sets of filters that came before; null: none
 * @param helpers who take on parts of searches that have to know all results
 */
public record SearchedSnapshot(Snapshot snapshot, @Nullable FilterCache cache, Helpers helpers)
    implements Searched {
  @Override
  public Schema schema() {
    return snapshot.schema();
  }

  @Override
  public Searched helpedBy(Helpers others) {
    return new SearchedSnapshot(snapshot, cache, others);
  }

  @Override
  public long documents() {
    return snapshot.documents();
  }

  @Override
  public SearchResult search(SearchRequest request) {
    return Searcher.search(snapshot, request, cache, helpers);
  }

  @Override
  public SearchResult some(SearchRequest request, long most) {
    return Searcher.some(snapshot, request, most, cache);
  }

  @Override
  public SearchResult any(SearchRequest request, long most) {
    return Searcher.any(snapshot, request, most, cache);
  }

  @Override
  public List<SearchResult> search(List<SearchRequest> requests, Budget budget) {
    return requests.stream().map(request -> search(request.within(budget.left()))).toList();
  }

  @Override
  public List<Long> counts(List<SearchRequest> requests, long most, Budget budget) {
    return requests.stream()
        .map(request -> request.countingUpTo(most).within(budget.left()))
        .map(request -> Math.min(most, any(request, most).total()))
        .toList();
  }

  @Override
  public List<Completions.Completion> completions(
      Field field, String beginning, int edits, boolean prefix, int most, Budget budget) {
    return Completions.of(snapshot, field, beginning, edits, prefix, most, budget);
  }

  @Override
  public Map<String, Map<String, Long>> having(
      Map<String, ? extends Collection<String>> terms, Budget budget) {
    EditionStatistics statistics = new EditionStatistics(snapshot, budget);
    Map<String, Map<String, Long>> having = new HashMap<>();
    terms.forEach(
        (name, some) -> {
          Field field = schema().field(name);
          Map<String, Long> documents = new HashMap<>();
          for (String term : some) {
            budget.step();
            byte[] bytes = term.getBytes(StandardCharsets.UTF_8);
            documents.put(term, statistics.documentFrequency(field, bytes));
          }
          having.put(name, documents);
        });
    return having;
  }

  @Override
  public List<Phrases.Found> values(Field field, String typed, int most) {
    return FieldValues.of(snapshot, field, typed, most);
  }

  @Override
  public @Nullable Explanation explain(SearchRequest request, String key) {
    return Explainer.explain(PreparedSearch.of(snapshot, request, null, true), key);
  }
}
