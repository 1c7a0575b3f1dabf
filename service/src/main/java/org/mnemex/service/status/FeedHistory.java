package org.mnemex.service.status;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.ChangeTrace;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** The activity of feeds, second by second. */
@Component
public class FeedHistory {
  private static final int KEPT_SECONDS = 600;
  private static final int TRACES = 200;

  private final Indexes indexes;
  private final Clock clock;
  private final Map<String, Series> series = new ConcurrentHashMap<>();

  public FeedHistory(Indexes indexes, Clock clock) {
    this.indexes = indexes;
    this.clock = clock;
  }

  /**
   * One second of a feed.
   *
   * @param at end of the second, ISO 8601
   * @param changes records updated in it
   * @param lagMillis the longest time from commit to visibility, in milliseconds; null if no record
   *     was updated
   */
  public record Point(String at, long changes, @Nullable Long lagMillis) {}

  private static final class Series {
    final Deque<Point> points = new ArrayDeque<>();
    int edition = -1;
    long total;
    Instant seen = Instant.EPOCH;

    synchronized void add(Point point) {
      if (points.size() == KEPT_SECONDS) {
        points.removeFirst();
      }
      points.addLast(point);
    }

    synchronized List<Point> all() {
      return List.copyOf(points);
    }
  }

  @Scheduled(fixedRate = 1, timeUnit = TimeUnit.SECONDS)
  void look() {
    Map<String, Edition> following = indexes.following();
    series.keySet().retainAll(following.keySet());
    following.forEach(
        (index, edition) -> look(series.computeIfAbsent(index, name -> new Series()), edition));
  }

  private void look(Series of, Edition edition) {
    Instant now = clock.instant();
    long total = edition.feed().changes();
    if (of.edition != edition.number()) {
      of.edition = edition.number();
      of.total = total;
      of.seen = now;
    }
    long changes = total - of.total;
    Long lag = null;
    if (changes > 0) {
      for (ChangeTrace trace : edition.feed().lastChanges((int) Math.min(changes, TRACES))) {
        if (trace.visible().isAfter(of.seen)) {
          lag = Math.max(lag == null ? 0 : lag, trace.lagMillis());
        }
      }
    }
    of.total = total;
    of.seen = now;
    of.add(new Point(now.toString(), changes, lag));
  }

  /** The last ten minutes of an index, oldest first. */
  public List<Point> of(String index) {
    indexes.one(index);
    Series known = series.get(index);
    return known == null ? List.of() : known.all();
  }
}
