package org.mnemex.service.search;

import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.mnemex.engine.suggest.Phrases;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.store.QueryMapper;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Counts what people search for, without who did, so that editions can be compared. Counts are
 * written every few seconds: a search must not wait for a disk.
 */
@Component
public class RecordedQueries {
  private static final int KEPT = 1000;
  private static final int MAX_WAITING = 10_000;
  private static final int MAX_LENGTH = 200;

  private final QueryMapper queries;
  private final Clock clock;
  private final boolean wanted;
  private final Map<Query, Long> waiting = new ConcurrentHashMap<>();

  public RecordedQueries(QueryMapper queries, Clock clock, MnemexSettings settings) {
    this.queries = queries;
    this.clock = clock;
    this.wanted = settings.recordQueries();
  }

  /** What is searched for at each endpoint, as it was written last. */
  private final Map<String, Phrases> asked = new ConcurrentHashMap<>();

  private record Query(String endpoint, String words) {}

  /** Counts a search. */
  void note(SearchCall call) {
    boolean typed =
        !call.words().isBlank() && !call.typing() && call.words().length() <= MAX_LENGTH;
    if (wanted && typed && call.isFirst() && waiting.size() < MAX_WAITING) {
      waiting.merge(new Query(call.endpoint().name(), call.words().strip()), 1L, Long::sum);
    }
  }

  /** Writes the counts. */
  @Scheduled(fixedDelay = 5, initialDelay = 5, timeUnit = TimeUnit.SECONDS)
  @PreDestroy
  void write() {
    String now = clock.instant().toString();
    for (Query query : List.copyOf(waiting.keySet())) {
      Long searches = waiting.remove(query);
      if (searches != null) {
        queries.add(query.endpoint, query.words, searches, now);
        queries.trim(query.endpoint, KEPT);
        asked.remove(query.endpoint);
      }
    }
  }

  /** What is searched for at an endpoint; the weight of each is how often. */
  Phrases asked(String endpoint) {
    return asked.computeIfAbsent(
        endpoint,
        name ->
            Phrases.of(
                queries.most(name, KEPT).stream()
                    .map(row -> new Phrases.Phrase(row.words(), row.searches()))
                    .toList()));
  }

  /** The most frequent queries. */
  List<String> most(String endpoint, int count) {
    write();
    return queries.most(endpoint, count).stream().map(QueryMapper.QueryRow::words).toList();
  }
}
