package org.mnemex.engine;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.concurrent.ConcurrentHashMap;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.Shards;

/** Shards that only tell one another data, as those in other places do. */
public final class ApartShards {
  private ApartShards() {}

  /** Searches an edition, and makes sure that it answers the same as a shard that is elsewhere. */
  public static SearchResult search(EditionFolder edition, SearchRequest request) {
    SearchView view = edition.view();
    SearchResult result = view.search(request);
    SearchView apart =
        together(List.of(view), edition.snapshot().schema(), edition.snapshot().checkpoint());
    assertThat(apart.search(request)).as("apart: " + request).isEqualTo(result);
    return result;
  }

  /** All of them as one. */
  public static SearchView together(List<SearchView> views, Schema schema, Checkpoint checkpoint) {
    Shards shards = Shards.inTurn(views.stream().map(SearchView::shard).toList());
    return SearchView.of(schema, shards, new ConcurrentHashMap<>(), checkpoint);
  }
}
