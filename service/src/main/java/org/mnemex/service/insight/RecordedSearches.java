package org.mnemex.service.insight;

import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.mnemex.engine.suggest.Phrases;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.SearchedRow;
import org.mnemex.service.store.InsightMapper.WordsRow;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Counts what people search for and what they find, without who did. Counts are kept in memory and
 * written every few seconds in one transaction: a search must not wait for a disk.
 */
@Component
public class RecordedSearches {
  /** The words of so many searches are known, for comparing and completing. */
  private static final int KNOWN = 1000;

  /** Of more different words in a few seconds, the rest is not counted. */
  private static final int MAX_WAITING = 10_000;

  private static final int MAX_LENGTH = 200;
  private static final int FEW = 2;

  /** The hours of so many days are kept apart; of earlier ones only the days are. */
  private static final int DAYS_BY_HOUR = 8;

  private static final int HOUR_LENGTH = 13;
  private static final int DAY_LENGTH = 10;

  private final InsightMapper insights;
  private final TransactionTemplate transaction;
  private final Clock clock;
  private final boolean wanted;
  private final int keptDays;
  private final Map<Key, SearchedRow> waiting = new HashMap<>();

  /** What is searched for at each endpoint, as it was written last. */
  private final Map<String, Phrases> asked = new ConcurrentHashMap<>();

  private record Key(String endpoint, String hour, String words) {}

  public RecordedSearches(
      InsightMapper insights,
      TransactionTemplate transaction,
      Clock clock,
      MnemexSettings settings) {
    this.insights = insights;
    this.transaction = transaction;
    this.clock = clock;
    this.wanted = settings.recordQueries();
    this.keptDays = Math.toIntExact(settings.insightRetention().toDays());
  }

  /**
   * A search and what came of it.
   *
   * @param words as they were typed
   * @param found how many results there are
   * @param millis how long it took, in milliseconds
   * @param isFirst whether it is the first page of its results
   * @param relaxed whether words were left out to find more
   * @param corrected whether other words were suggested
   * @param curated whether a rule of a curation applied
   */
  public record Searched(
      String endpoint,
      String words,
      long found,
      double millis,
      boolean isFirst,
      boolean relaxed,
      boolean corrected,
      boolean curated) {}

  /** Counts a search. */
  public void note(Searched search) {
    String words = normal(search.words);
    if (!wanted || words.length() > MAX_LENGTH) {
      return;
    }
    Key key = new Key(search.endpoint, hour(clock.instant()), words);
    SearchedRow row = row(key, search);
    synchronized (waiting) {
      if (waiting.size() < MAX_WAITING || waiting.containsKey(key)) {
        waiting.merge(key, row, RecordedSearches::sum);
      }
    }
  }

  /** Words as they are compared: in lower case, with single spaces. */
  static String normal(String words) {
    return words.strip().replaceAll("\\s+", " ").toLowerCase(Locale.ROOT);
  }

  private static String hour(Instant time) {
    return time.toString().substring(0, HOUR_LENGTH);
  }

  /**
   * The first hour that counts since a time; of what is kept by the day only, the whole day.
   *
   * @param days how long ago that is
   */
  static String since(Instant time, int days) {
    return days < DAYS_BY_HOUR ? hour(time) : hour(time).substring(0, DAY_LENGTH);
  }

  private static SearchedRow row(Key key, Searched search) {
    boolean first = search.isFirst;
    return new SearchedRow(
        key.endpoint,
        key.hour,
        key.words,
        one(first),
        one(first && search.found == 0),
        one(first && search.found > 0 && search.found <= FEW),
        first ? search.found : 0,
        first ? search.millis : 0,
        search.millis,
        one(first && search.relaxed),
        one(first && search.corrected),
        one(first && search.curated),
        one(!first));
  }

  private static long one(boolean is) {
    return is ? 1 : 0;
  }

  private static SearchedRow sum(SearchedRow a, SearchedRow b) {
    return new SearchedRow(
        a.endpoint(),
        a.hour(),
        a.words(),
        a.searches() + b.searches(),
        a.withoutResults() + b.withoutResults(),
        a.fewResults() + b.fewResults(),
        a.results() + b.results(),
        a.millis() + b.millis(),
        Math.max(a.slowest(), b.slowest()),
        a.relaxed() + b.relaxed(),
        a.corrected() + b.corrected(),
        a.curated() + b.curated(),
        a.laterPages() + b.laterPages());
  }

  /** Writes the counts. */
  @Scheduled(fixedDelay = 5, initialDelay = 5, timeUnit = TimeUnit.SECONDS)
  @PreDestroy
  void write() {
    List<SearchedRow> rows;
    synchronized (waiting) {
      rows = List.copyOf(waiting.values());
      waiting.clear();
    }
    if (!rows.isEmpty()) {
      transaction.executeWithoutResult(status -> rows.forEach(insights::add));
      rows.forEach(row -> asked.remove(row.endpoint()));
    }
  }

  /** Keeps days instead of hours of what is some days ago, and nothing of what is long ago. */
  @Scheduled(fixedDelay = 60, initialDelay = 1, timeUnit = TimeUnit.MINUTES)
  void age() {
    LocalDate today = LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
    String byDay = today.minusDays(DAYS_BY_HOUR).toString();
    transaction.executeWithoutResult(
        status -> {
          insights.addDays(byDay);
          insights.removeHours(byDay);
          insights.forgetBefore(today.minusDays(keptDays).toString());
        });
  }

  /** What is searched for at an endpoint; the weight of each is how often. */
  public Phrases asked(String endpoint) {
    return asked.computeIfAbsent(
        endpoint,
        name ->
            Phrases.of(
                insights.most(name, KNOWN).stream()
                    .map(row -> new Phrases.Phrase(row.words(), row.searches()))
                    .toList()));
  }

  /** The most frequent queries. */
  public List<String> most(String endpoint, int count) {
    write();
    return insights.most(endpoint, count).stream().map(WordsRow::words).toList();
  }
}
