package org.mnemex.engine;

import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Helpers;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.search.Searched;
import org.mnemex.engine.search.SearchedShards;
import org.mnemex.engine.search.SearchedSnapshot;
import org.mnemex.engine.search.SimilarTexts;
import org.mnemex.engine.search.SnapshotShard;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.Shards;
import org.mnemex.engine.suggest.Correction;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggester;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.engine.suggest.ValueCompletions;
import org.mnemex.engine.suggest.WordCompletions;

/** A snapshot to be searched; see {@link EditionFolder#view()}. */
public final class SearchView {
  private final Searched searched;

  SearchView(Snapshot snapshot, FilterCache filters) {
    this(new SearchedSnapshot(snapshot, filters, Helpers.NONE));
  }

  private SearchView(Searched searched) {
    this.searched = searched;
  }

  /** The same with helpers for searches that have to know all results. */
  public SearchView helpedBy(Helpers helpers) {
    return new SearchView(searched.helpedBy(helpers));
  }

  /**
   * Several editions of the same fields as one, no key in two of them. Whatever is asked is
   * answered as by a single edition with all their documents.
   *
   * @param parts the editions, at least one, in this process and with the same schema
   * @param checkpoint what results say about the moment that they are of
   */
  public static SearchView of(List<SearchView> parts, Checkpoint checkpoint) {
    List<SearchedSnapshot> here =
        parts.stream().map(part -> (SearchedSnapshot) part.searched).toList();
    Snapshot first = here.getFirst().snapshot();
    Snapshot all =
        new Snapshot(
            first.schema(),
            here.stream().flatMap(part -> part.snapshot().segments().stream()).toList(),
            checkpoint,
            first.number());
    return new SearchView(new SearchedSnapshot(all, here.getFirst().cache(), Helpers.NONE));
  }

  /**
   * An edition whose shards are in other places. Whatever is asked is answered as by a single
   * edition with all their documents; those of shards that are {@link Shards#away} are left out.
   *
   * @param schema of all of them
   * @param facts known about these very shards; others are added. Thread-safe
   * @param checkpoint what results say about the moment that they are of
   */
  public static SearchView of(
      Schema schema, Shards shards, Map<String, Fact> facts, Checkpoint checkpoint) {
    return new SearchView(new SearchedShards(schema, shards, facts, checkpoint));
  }

  /** This snapshot as a shard of an edition whose other shards are in other places. */
  public Shard shard() {
    return new SnapshotShard((SearchedSnapshot) searched);
  }

  /** Numbers of shards whose documents are left out, as nobody can be asked for them now. */
  public Set<Integer> away() {
    return searched.away();
  }

  /** The results of a search. */
  public SearchResult search(SearchRequest request) {
    return searched.search(request);
  }

  /** Whether a search has any result. */
  public boolean finds(SearchRequest request) {
    return searched.any(request.countingUpTo(1), 1).total() > 0;
  }

  /** Completions of a text being typed. */
  public List<Suggestion> suggest(SuggestRequest request) {
    return Suggester.suggest(searched, request);
  }

  /** What is typed with its last word completed by words of the documents. */
  public List<WordCompletions.Completed> words(SuggestRequest request) {
    return WordCompletions.of(searched, request);
  }

  /**
   * The values of an exact field that fit what is typed.
   *
   * @param name the field, which can be filtered by
   * @param most how many at most
   * @throws QueryRefusedException if it is no such field
   */
  public List<Phrases.Found> values(
      String name, String typed, int most, Query filter, SearchLimits limits) {
    return ValueCompletions.of(
        searched, searched.schema().field(name), typed, most, filter, limits);
  }

  /**
   * The text with rare words corrected, or null if there is nothing better.
   *
   * @param least a word in this many documents needs no correction, from 1
   */
  public @Nullable String correct(SuggestRequest request, int least) {
    return Correction.of(searched, request, least);
  }

  /**
   * A query for documents similar to some texts.
   *
   * @param fields weight by name of a text field
   * @param texts the texts, by field
   * @param least the minimum document frequency of terms: 2 if the texts are from a document
   * @throws QueryRefusedException if a field cannot be searched
   */
  public Query similar(
      Map<String, Double> fields, Map<String, List<String>> texts, int least, SearchLimits limits) {
    return SimilarTexts.query(searched, fields, texts, least, limits);
  }

  /**
   * How a document's score is computed, or why it is not a result; null if there is no such
   * document.
   */
  public @Nullable Explanation explain(SearchRequest request, String key) {
    return searched.explain(request, key);
  }
}
