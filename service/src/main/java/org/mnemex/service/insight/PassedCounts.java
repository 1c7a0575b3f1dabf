package org.mnemex.service.insight;

import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.Objects;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.store.InsightMapper.FacetRow;
import org.mnemex.service.store.InsightMapper.OpenedRow;
import org.mnemex.service.store.InsightMapper.SearchedRow;

/** Leaves out what no search node counts: a key that may report must not be able to spoil more. */
final class PassedCounts {
  private static final Pattern HOUR = Pattern.compile("\\d{4}-\\d\\d-\\d\\dT\\d\\d");
  private static final Pattern DAY = Pattern.compile("\\d{4}-\\d\\d-\\d\\d");
  private static final int MAX_NAME = 200;
  private static final int MAX_KEY = 2_000;
  private static final long MAX_COUNT = 1_000_000_000_000L;

  private final Predicate<String> known;
  private final String from;
  private final String to;

  private PassedCounts(Predicate<String> known, Instant now, int keptDays) {
    this.known = known;
    this.from = RecordedSearches.day(now.minus(Duration.ofDays(keptDays)));
    // Clocks differ.
    this.to = RecordedSearches.day(now.plus(Duration.ofDays(2)));
  }

  /**
   * What counts.
   *
   * @param known whether an endpoint exists
   * @param keptDays how many days are kept
   */
  static CountedSearches checked(
      CountedSearches counts, Predicate<String> known, Instant now, int keptDays) {
    PassedCounts passed = new PassedCounts(known, now, keptDays);
    return new CountedSearches(
        counts.searched().stream().filter(passed::isPlausible).toList(),
        counts.facets().stream().filter(passed::isPlausible).toList(),
        counts.opened().stream().filter(passed::isPlausible).toList());
  }

  private boolean isPlausible(SearchedRow row) {
    return areThere(row.endpoint(), row.hour(), row.words())
        && known.test(row.endpoint())
        && HOUR.matcher(row.hour()).matches()
        && isKept(row.hour())
        && areWords(row.words())
        && areCounts(
            row.searches(),
            row.withoutResults(),
            row.fewResults(),
            row.results(),
            row.relaxed(),
            row.corrected(),
            row.curated(),
            row.laterPages(),
            row.opened(),
            row.opens(),
            row.positions())
        && areSums(row.millis(), row.slowest());
  }

  private boolean isPlausible(FacetRow row) {
    return areThere(row.endpoint(), row.day(), row.facet())
        && known.test(row.endpoint())
        && isDay(row.day())
        && row.facet().length() <= MAX_NAME
        && areCounts(row.searches());
  }

  private boolean isPlausible(OpenedRow row) {
    return areThere(row.endpoint(), row.day(), row.words(), row.recordKey())
        && known.test(row.endpoint())
        && isDay(row.day())
        && areWords(row.words())
        && row.recordKey().length() <= MAX_KEY
        && areCounts(row.opens())
        && areSums(row.weight());
  }

  /** JSON may leave out anything. */
  private static boolean areThere(@Nullable String... texts) {
    return Arrays.stream(texts).allMatch(Objects::nonNull);
  }

  private boolean isDay(String day) {
    return DAY.matcher(day).matches() && isKept(day);
  }

  private boolean isKept(String time) {
    return time.compareTo(from) >= 0 && time.compareTo(to) < 0;
  }

  private static boolean areWords(String words) {
    return words.length() <= RecordedSearches.MAX_LENGTH
        && RecordedSearches.normal(words).equals(words);
  }

  private static boolean areCounts(long... counts) {
    return Arrays.stream(counts).allMatch(count -> count >= 0 && count <= MAX_COUNT);
  }

  private static boolean areSums(double... sums) {
    return Arrays.stream(sums).allMatch(sum -> sum >= 0 && sum <= MAX_COUNT);
  }
}
