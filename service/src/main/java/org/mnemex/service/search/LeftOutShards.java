package org.mnemex.service.search;

import java.util.Collection;
import java.util.List;
import java.util.NavigableSet;
import java.util.concurrent.ConcurrentSkipListSet;
import org.jspecify.annotations.Nullable;

/** Notes the shards that the answer to one call is without. */
final class LeftOutShards {
  private final NavigableSet<Integer> noted = new ConcurrentSkipListSet<>();

  void note(Collection<Integer> shards) {
    noted.addAll(shards);
  }

  /** The numbers of all of them, in order; null if there are none. */
  @Nullable List<Integer> numbers() {
    return noted.isEmpty() ? null : List.copyOf(noted);
  }
}
