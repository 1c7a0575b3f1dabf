package org.mnemex.engine;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BiFunction;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.Shard;
import org.mnemex.engine.shard.Shards;

/** Shards that only tell one another data, as those in other places do. */
public record ApartShards(List<SearchView> views) implements Shards {
  @Override
  public <T extends @Nullable Object> List<T> each(BiFunction<Integer, Shard, T> question) {
    List<T> answers = new ArrayList<>();
    for (int i = 0; i < views.size(); i++) {
      answers.add(question.apply(i, views.get(i).shard()));
    }
    return answers;
  }

  /** Searches an edition, and makes sure that it answers the same as a shard that is elsewhere. */
  public static SearchResult search(EditionFolder edition, SearchRequest request) {
    SearchView view = edition.view();
    SearchResult result = view.search(request);
    SearchView apart =
        new ApartShards(List.of(view))
            .together(edition.snapshot().schema(), edition.snapshot().checkpoint());
    assertThat(apart.search(request)).as("apart: " + request).isEqualTo(result);
    return result;
  }

  /** All of them as one. */
  public SearchView together(Schema schema, Checkpoint checkpoint) {
    return SearchView.of(schema, this, new ConcurrentHashMap<>(), checkpoint);
  }
}
