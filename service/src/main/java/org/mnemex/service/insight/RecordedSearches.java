package org.mnemex.service.insight;

import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.phrase.Phrases;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.FacetRow;
import org.mnemex.service.store.InsightMapper.OpenedRow;
import org.mnemex.service.store.InsightMapper.SearchedRow;
import org.mnemex.service.store.InsightMapper.WordsRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * Counts what people search for, what they find and what they open, without who did. Counts are
 * kept in memory and written every second in one transaction: a search must not wait for a disk.
 */
@Component
public class RecordedSearches {
  private static final Logger LOG = LoggerFactory.getLogger(RecordedSearches.class);

  /** The words of so many searches are known, for comparing and completing. */
  private static final int KNOWN = 1000;

  /** Of so many searches whose words are still being typed it is known what they found. */
  private static final int TYPED = 10_000;

  /** Reading what is searched for may take one part in so many of the time. */
  private static final int READ_SHARE = 100;

  private static final Duration OLDEST = Duration.ofDays(1).plusHours(1);
  private static final int LONGEST_ANSWER = 10_000;
  private static final int DEEPEST = 1_000_000;
  static final int MAX_LENGTH = 200;
  private static final int FEW = 2;

  /** The hours of so many days are kept apart; of earlier ones only the days are. */
  private static final int DAYS_BY_HOUR = 8;

  private static final int HOUR_LENGTH = 13;
  private static final int DAY_LENGTH = 10;

  private final InsightMapper insights;
  private final TransactionTemplate transaction;
  private final Clock clock;
  private final JsonMapper json;
  private final boolean wanted;
  private final int keptDays;
  private final WaitingCounts waiting = new WaitingCounts();
  private final @Nullable CountsToPass toPass;
  private final OpenedResults results = new OpenedResults();
  private final Map<Long, Searched> typed = new OpenedResults.Recent<>(TYPED);

  /** What is searched for at each endpoint, as it was read last. */
  private final Map<String, Asked> asked = new ConcurrentHashMap<>();

  /** What is searched for at each endpoint on all machines together, if that is known. */
  private volatile Map<String, Phrases> askedOfAll = Map.of();

  public RecordedSearches(
      InsightMapper insights,
      TransactionTemplate transaction,
      Clock clock,
      JsonMapper json,
      MnemexSettings settings) {
    this.insights = insights;
    this.transaction = transaction;
    this.clock = clock;
    this.json = json;
    this.wanted = settings.recordQueries();
    this.keptDays = Math.toIntExact(settings.insightRetention().toDays());
    this.toPass = settings.node().builder() == null ? null : new CountsToPass();
  }

  /**
   * A search and what came of it.
   *
   * @param words as they were typed
   * @param found how many results there are
   * @param millis how long it took, in milliseconds
   * @param typing whether the last word is still being typed; then the search does not count unless
   *     it is meant after all
   * @param facets the facets in which something was chosen
   * @param passed how many results were passed over before the first one of the answer
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
      boolean typing,
      Set<String> facets,
      int passed,
      boolean isFirst,
      boolean relaxed,
      boolean corrected,
      boolean curated) {
    public Searched {
      facets = Set.copyOf(facets);
    }
  }

  /**
   * Counts a search.
   *
   * @return an id by which {@link #open} knows the answer; null if nothing is counted
   */
  public @Nullable String note(Searched search) {
    String words = normal(search.words);
    if (!wanted || words.length() > MAX_LENGTH) {
      return null;
    }
    AnswerId id = AnswerId.of(search.typing, clock.instant(), search.passed, words);
    if (search.typing) {
      synchronized (typed) {
        typed.put(id.number(), search);
      }
    } else {
      count(id, search);
    }
    return id.text();
  }

  private void count(AnswerId id, Searched search) {
    waiting.add(row(hour(id.time()), id.words(), search));
    if (search.isFirst) {
      for (String facet : search.facets) {
        waiting.add(new FacetRow(search.endpoint, day(id.time()), facet, 1));
      }
    }
  }

  /**
   * Counts that a result was opened, each result of an answer once. A search whose words were still
   * being typed counts from now on. Answers of more than a day ago no longer count.
   *
   * @param id the id of the answer
   * @param key the key of the record that was opened; null if only the search was meant
   * @param position its place in the answer, from 1
   * @throws ProblemException 400 if the id is none
   */
  public void open(String endpoint, String id, @Nullable String key, int position) {
    AnswerId answer = AnswerId.parse(id);
    if (answer == null || !normal(answer.words()).equals(answer.words())) {
      throw new ProblemException(
          ProblemType.BAD_ANSWER_ID, "'id' is not the id of an answer; take it from the answer");
    }
    if (position < 1 || position > LONGEST_ANSWER) {
      throw new ProblemException(
          ProblemType.BAD_VALUE,
          "'position' is the result's place in the answer, 1 to %,d".formatted(LONGEST_ANSWER));
    }
    Duration age = Duration.between(answer.time(), clock.instant());
    boolean recent = !age.isNegative() && age.compareTo(OLDEST) <= 0;
    if (!wanted || !recent || answer.words().length() > MAX_LENGTH) {
      return;
    }
    if (answer.typing()) {
      Searched meant;
      synchronized (typed) {
        meant = typed.remove(answer.number());
      }
      if (meant != null && meant.endpoint.equals(endpoint)) {
        count(answer, meant);
      }
    }
    if (key != null) {
      open(endpoint, answer, key, Math.clamp(answer.passed(), 0, DEEPEST) + position);
    }
  }

  private void open(String endpoint, AnswerId answer, String key, int position) {
    OpenedResults.Opening opening = results.open(answer.number(), key);
    if (!opening.isNew()) {
      return;
    }
    waiting.add(
        new SearchedRow(
            endpoint,
            hour(answer.time()),
            answer.words(),
            0,
            0,
            0,
            0,
            0,
            0,
            0,
            0,
            0,
            0,
            one(opening.isFirst()),
            1,
            position));
    if (!answer.words().isEmpty()) {
      // Few people look far down: who opens a result there tells more (Joachims et al. 2017).
      double weight = Math.log(1.0 + position) / Math.log(2);
      waiting.add(new OpenedRow(endpoint, day(answer.time()), answer.words(), key, 1, weight));
    }
  }

  /** Words as they are compared: in lower case, with single spaces. */
  static String normal(String words) {
    return words.strip().replaceAll("\\s+", " ").toLowerCase(Locale.ROOT);
  }

  private static String hour(Instant time) {
    return time.toString().substring(0, HOUR_LENGTH);
  }

  /** A day, UTC, such as {@code 2026-05-04}. */
  static String day(Instant time) {
    return time.toString().substring(0, DAY_LENGTH);
  }

  /**
   * The first hour that counts since a time; of what is kept by the day only, the whole day.
   *
   * @param days how long ago that is
   */
  static String since(Instant time, int days) {
    return days < DAYS_BY_HOUR ? hour(time) : day(time);
  }

  private static SearchedRow row(String hour, String words, Searched search) {
    boolean first = search.isFirst;
    return new SearchedRow(
        search.endpoint,
        hour,
        words,
        one(first),
        one(first && search.found == 0),
        one(first && search.found > 0 && search.found <= FEW),
        first ? search.found : 0,
        first ? search.millis : 0,
        search.millis,
        one(first && search.relaxed),
        one(first && search.corrected),
        one(first && search.curated),
        one(!first),
        0,
        0,
        0);
  }

  private static long one(boolean is) {
    return is ? 1 : 0;
  }

  /** Writes the counts. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.SECONDS)
  @PreDestroy
  void write() {
    CountedSearches batch = waiting.take();
    if (batch.isEmpty()) {
      return;
    }
    try {
      transaction.executeWithoutResult(_ -> add(batch));
    } catch (RuntimeException e) {
      // A full disk: they are written when there is room again.
      LOG.debug("searches are not recorded yet", e);
      waiting.addAll(batch);
      return;
    }
    if (toPass != null) {
      toPass.add(batch);
    }
    noteChanged(batch);
  }

  private void add(CountedSearches counts) {
    insights.addSearched(json.writeValueAsString(counts.searched()));
    insights.addFacets(json.writeValueAsString(counts.facets()));
    insights.addOpened(json.writeValueAsString(counts.opened()));
  }

  private void noteChanged(CountedSearches counts) {
    counts.searched().forEach(row -> asked.computeIfPresent(row.endpoint(), Asked::changed));
  }

  /** What is to be passed on to the builder of a search node; null: nothing ever. */
  public @Nullable CountsToPass toPass() {
    return toPass;
  }

  /**
   * Adds what a search node has counted, once.
   *
   * @param known whether an endpoint exists; of others nothing is added
   */
  public void passed(CountsToPass.Batch batch, Predicate<String> known) {
    CountedSearches counts = PassedCounts.checked(batch.counts(), known, clock.instant(), keptDays);
    boolean isNew =
        Boolean.TRUE.equals(
            transaction.execute(
                _ -> {
                  if (!wanted
                      || insights.notePassed(
                              batch.run(), batch.number(), clock.instant().toString())
                          == 0) {
                    return false;
                  }
                  add(counts);
                  return true;
                }));
    if (isNew) {
      noteChanged(counts);
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
          String kept = today.minusDays(keptDays).toString();
          insights.forgetBefore(kept);
          insights.forgetOpenedBefore(kept);
          insights.forgetFacetsBefore(kept);
          insights.forgetPassedBefore(kept);
        });
  }

  /** What is searched for at an endpoint; the weight of each is how often. */
  public Phrases asked(String endpoint) {
    Phrases ofAll = askedOfAll.get(endpoint);
    return ofAll == null ? counted(endpoint).phrases : ofAll;
  }

  /** What is searched for at an endpoint, as it is counted here, the most frequent first. */
  public List<WordsRow> askedMost(String endpoint) {
    return counted(endpoint).rows;
  }

  /**
   * Takes over what is searched for on all machines together, by endpoint. What is counted here is
   * not asked for any more.
   */
  public void takeAsked(Map<String, List<WordsRow>> rows) {
    Map<String, Phrases> all = new HashMap<>();
    rows.forEach((endpoint, most) -> all.put(endpoint, phrases(most)));
    askedOfAll = all;
  }

  private Asked counted(String endpoint) {
    Asked known = asked.get(endpoint);
    if (known == null || known.isOld(System.nanoTime())) {
      known = read(endpoint);
      asked.put(endpoint, known);
    }
    return known;
  }

  private Asked read(String endpoint) {
    long start = System.nanoTime();
    List<WordsRow> rows = insights.most(endpoint, KNOWN);
    Phrases phrases = phrases(rows);
    long end = System.nanoTime();
    return new Asked(rows, phrases, end + READ_SHARE * (end - start), false);
  }

  private static Phrases phrases(List<WordsRow> rows) {
    return Phrases.of(
        rows.stream().map(row -> new Phrases.Phrase(row.words(), row.searches())).toList());
  }

  /**
   * What was searched for, as it was read.
   *
   * @param rows the words of most searches first
   * @param phrases the same, to be completed
   * @param until until when it is good enough although more was written, in nanoseconds; the longer
   *     reading takes, the longer
   * @param isChanged whether more was written since
   */
  private record Asked(List<WordsRow> rows, Phrases phrases, long until, boolean isChanged) {
    static Asked changed(String endpoint, Asked before) {
      return new Asked(before.rows, before.phrases, before.until, true);
    }

    boolean isOld(long now) {
      return isChanged && now - until > 0;
    }
  }

  /** The most frequent queries. */
  public List<String> most(String endpoint, int count) {
    write();
    return insights.most(endpoint, count).stream().map(WordsRow::words).toList();
  }
}
