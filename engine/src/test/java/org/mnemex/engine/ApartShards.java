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
    SearchResult result = edition.view().search(request);
    assertThat(view(edition).search(request)).as("apart: " + request).isEqualTo(result);
    return result;
  }

  /** An edition as one shard that is elsewhere. */
  public static SearchView view(EditionFolder edition) {
    return together(
        List.of(edition.view()), edition.snapshot().schema(), edition.snapshot().checkpoint());
  }

  /** All of them as one. */
  public static SearchView together(List<SearchView> views, Schema schema, Checkpoint checkpoint) {
    Shards shards = Shards.inTurn(views.stream().map(SearchView::shard).toList());
    return SearchView.of(schema, shards, new ConcurrentHashMap<>(), checkpoint);
  }
}
