package org.mnemex.service.store;

import java.util.List;
import org.apache.ibatis.annotations.Delete;
import org.apache.ibatis.annotations.Insert;
import org.apache.ibatis.annotations.Param;
import org.apache.ibatis.annotations.Select;
import org.jspecify.annotations.Nullable;

/** What people searched for, by hour. */
public interface InsightMapper {
  /** What is already known of the same words and hour is added to. */
  String ADDING =
      """
      ON CONFLICT (endpoint, hour, words) DO UPDATE SET
        searches = searches + excluded.searches,
        without_results = without_results + excluded.without_results,
        few_results = few_results + excluded.few_results,
        results = results + excluded.results,
        millis = millis + excluded.millis,
        slowest = max(slowest, excluded.slowest),
        relaxed = relaxed + excluded.relaxed,
        corrected = corrected + excluded.corrected,
        curated = curated + excluded.curated,
        later_pages = later_pages + excluded.later_pages,
        opened = opened + excluded.opened,
        opens = opens + excluded.opens,
        positions = positions + excluded.positions""";

  /**
   * Words that were searched for.
   *
   * @param words the words, in lower case
   * @param searches how often
   */
  record WordsRow(String words, long searches) {}

  /**
   * What was counted of some words in an hour.
   *
   * @param endpoint where they were searched for
   * @param hour such as {@code 2026-05-04T10}, UTC
   * @param words in lower case, with single spaces
   * @param searches how often they were searched for
   * @param withoutResults how often without results
   * @param fewResults how often with 1 or 2 results
   * @param results all results together
   * @param millis all times together, in milliseconds
   * @param slowest the longest time, in milliseconds
   * @param relaxed how often words were left out to find more
   * @param corrected how often other words were suggested
   * @param curated how often a rule of a curation applied
   * @param laterPages how often a page after the first one was asked for
   * @param opened of how many searches a result was opened
   * @param opens how many results were opened
   * @param positions their places among the results together; the first place is 1
   */
  record SearchedRow(
      String endpoint,
      String hour,
      String words,
      long searches,
      long withoutResults,
      long fewResults,
      long results,
      double millis,
      double slowest,
      long relaxed,
      long corrected,
      long curated,
      long laterPages,
      long opened,
      long opens,
      long positions) {}

  /**
   * How often a facet was chosen from.
   *
   * @param endpoint where
   * @param day in whose searches, UTC
   * @param facet its name
   * @param searches in how many searches something was chosen in it
   */
  record FacetRow(String endpoint, String day, String facet, long searches) {}

  /**
   * How often a record was opened.
   *
   * @param endpoint where it was found
   * @param day after whose searches, UTC
   * @param words what was searched for
   * @param recordKey the record's key
   * @param opens how often
   * @param weight the opens, each weighted by how unlikely it is to be seen at its place
   */
  record OpenedRow(
      String endpoint, String day, String words, String recordKey, long opens, double weight) {}

  /**
   * What became of searches for some words.
   *
   * @param words the words, in lower case
   * @param searches how often they were searched for
   * @param before how often in the time of the same length before
   * @param withoutResults how often without results
   * @param fewResults how often with 1 or 2 results
   * @param meanResults how many results on average
   * @param meanMillis how long a search took on average, in milliseconds
   * @param slowest how long the slowest search took, in milliseconds
   * @param relaxed how often words were left out to find more
   * @param corrected how often other words were suggested
   * @param curated how often a rule of a curation applied
   * @param laterPages how often a page after the first one was asked for
   * @param opened of how many searches a result was opened
   * @param meanPosition the place of the opened results on average, from 1; null if there were none
   */
  record InsightRow(
      String words,
      long searches,
      long before,
      long withoutResults,
      long fewResults,
      double meanResults,
      double meanMillis,
      double slowest,
      long relaxed,
      long corrected,
      long curated,
      long laterPages,
      long opened,
      @Nullable Double meanPosition) {}

  /**
   * Searches of an endpoint.
   *
   * @param endpoint its name
   * @param searches how many there were
   * @param withoutResults how many without results
   * @param opened of how many a result was opened
   * @param meanMillis how long one took on average, in milliseconds
   */
  record EndpointRow(
      String endpoint, long searches, long withoutResults, long opened, double meanMillis) {}

  /**
   * A facet that people choose from.
   *
   * @param facet its name
   * @param searches in how many searches something was chosen in it
   */
  record UsedFacetRow(String facet, long searches) {}

  /**
   * A record that people opened after searching for some words.
   *
   * @param words the words, in lower case
   * @param key the record's key
   * @param opens how often it was opened
   * @param share its part of all weighted opens after these words, 0 to 1
   */
  record OpenedShareRow(String words, String key, long opens, double share) {}

  /**
   * All searches of an hour or day.
   *
   * @param time such as {@code 2026-05-04T10} or {@code 2026-05-04}, UTC
   * @param searches how many there were
   * @param withoutResults how many without results
   * @param opened of how many a result was opened
   * @param meanMillis how long one took on average, in milliseconds
   */
  record TimeRow(String time, long searches, long withoutResults, long opened, double meanMillis) {}

  /**
   * Adds searches, all in one statement: one for each would cost more than the searches may.
   *
   * @param rows {@link SearchedRow}s as JSON
   */
  @Insert(
      """
      INSERT INTO searched
      SELECT value ->> 'endpoint', value ->> 'hour', value ->> 'words', value ->> 'searches',
        value ->> 'withoutResults', value ->> 'fewResults', value ->> 'results',
        value ->> 'millis', value ->> 'slowest', value ->> 'relaxed', value ->> 'corrected',
        value ->> 'curated', value ->> 'laterPages', value ->> 'opened', value ->> 'opens',
        value ->> 'positions'
      FROM json_each(#{rows}) WHERE true
      """
          + ADDING)
  void addSearched(@Param("rows") String rows);

  /**
   * Adds uses of facets.
   *
   * @param rows {@link FacetRow}s as JSON
   */
  @Insert(
      """
      INSERT INTO used_facet
      SELECT value ->> 'endpoint', value ->> 'day', value ->> 'facet', value ->> 'searches'
      FROM json_each(#{rows}) WHERE true
      ON CONFLICT (endpoint, day, facet) DO UPDATE SET searches = searches + excluded.searches""")
  void addFacets(@Param("rows") String rows);

  /**
   * Adds opened results.
   *
   * @param rows {@link OpenedRow}s as JSON
   */
  @Insert(
      """
      INSERT INTO opened_record
      SELECT value ->> 'endpoint', value ->> 'day', value ->> 'words', value ->> 'recordKey',
        value ->> 'opens', value ->> 'weight'
      FROM json_each(#{rows}) WHERE true
      ON CONFLICT (endpoint, day, words, record_key) DO UPDATE SET
        opens = opens + excluded.opens, weight = weight + excluded.weight""")
  void addOpened(@Param("rows") String rows);

  /** The words of most searches first. */
  @Select(
      """
      SELECT words, sum(searches) AS searches FROM searched
      WHERE endpoint = #{endpoint} AND words != '' GROUP BY words HAVING sum(searches) > 0
      ORDER BY sum(searches) DESC, max(hour) DESC, words LIMIT #{count}""")
  List<WordsRow> most(@Param("endpoint") String endpoint, @Param("count") int count);

  /**
   * Rows of a report.
   *
   * @param having which words belong to it, SQL over the columns of the result; ours, not a
   *     caller's
   * @param order which come first, likewise
   * @param from the first hour
   * @param earlier the first hour of the time before
   */
  @Select(
      """
      SELECT * FROM (
        SELECT words,
          total(searches) FILTER (WHERE hour >= #{from}) AS searches,
          total(searches) FILTER (WHERE hour < #{from}) AS before,
          total(without_results) FILTER (WHERE hour >= #{from}) AS without_results,
          total(few_results) FILTER (WHERE hour >= #{from}) AS few_results,
          total(results) FILTER (WHERE hour >= #{from})
            / max(1, total(searches) FILTER (WHERE hour >= #{from})) AS mean_results,
          total(millis) FILTER (WHERE hour >= #{from})
            / max(1, total(searches) FILTER (WHERE hour >= #{from})) AS mean_millis,
          coalesce(max(slowest) FILTER (WHERE hour >= #{from}), 0) AS slowest,
          total(relaxed) FILTER (WHERE hour >= #{from}) AS relaxed,
          total(corrected) FILTER (WHERE hour >= #{from}) AS corrected,
          total(curated) FILTER (WHERE hour >= #{from}) AS curated,
          total(later_pages) FILTER (WHERE hour >= #{from}) AS later_pages,
          total(opened) FILTER (WHERE hour >= #{from}) AS opened,
          sum(positions) FILTER (WHERE hour >= #{from}) * 1.0
            / nullif(sum(opens) FILTER (WHERE hour >= #{from}), 0) AS mean_position
        FROM searched WHERE endpoint = #{endpoint} AND hour >= #{earlier} AND words != ''
        GROUP BY words)
      WHERE searches > 0 AND ${having} ORDER BY ${order}, searches DESC, words LIMIT #{limit}""")
  List<InsightRow> report(
      @Param("endpoint") String endpoint,
      @Param("having") String having,
      @Param("order") String order,
      @Param("from") String from,
      @Param("earlier") String earlier,
      @Param("limit") int limit);

  /**
   * Searches over time, the first hour first.
   *
   * @param length how much of an hour's text counts: 13 for hours, 10 for days
   */
  @Select(
      """
      SELECT substr(hour, 1, #{length}) AS time, total(searches) AS searches,
        total(without_results) AS without_results, total(opened) AS opened,
        total(millis) / max(1, total(searches)) AS mean_millis
      FROM searched WHERE endpoint = #{endpoint} AND hour >= #{from}
      GROUP BY substr(hour, 1, #{length}) ORDER BY 1""")
  List<TimeRow> overTime(
      @Param("endpoint") String endpoint, @Param("from") String from, @Param("length") int length);

  /** All endpoints that were searched, the busiest first. */
  @Select(
      """
      SELECT endpoint, total(searches) AS searches, total(without_results) AS without_results,
        total(opened) AS opened, total(millis) / max(1, total(searches)) AS mean_millis
      FROM searched WHERE hour >= #{from} GROUP BY endpoint ORDER BY 2 DESC, 1""")
  List<EndpointRow> byEndpoint(@Param("from") String from);

  /** The facets of most searches first. */
  @Select(
      """
      SELECT facet, sum(searches) AS searches FROM used_facet
      WHERE endpoint = #{endpoint} AND day >= #{from} GROUP BY facet ORDER BY 2 DESC, 1""")
  List<UsedFacetRow> facets(@Param("endpoint") String endpoint, @Param("from") String from);

  /**
   * The records that were opened after words with enough opens; the words of most opens first.
   *
   * @param words only these words; or null
   * @param least of how many opens the words are at least
   * @param share the least share of a record
   */
  @Select(
      """
      SELECT words, key, opens, share FROM (
        SELECT words, record_key AS key, sum(opens) AS opens,
          sum(weight) / sum(sum(weight)) OVER (PARTITION BY words) AS share,
          sum(sum(opens)) OVER (PARTITION BY words) AS of_words
        FROM opened_record
        WHERE endpoint = #{endpoint} AND day >= #{from}
          AND (#{words,jdbcType=VARCHAR} IS NULL OR words = #{words,jdbcType=VARCHAR})
        GROUP BY words, record_key)
      WHERE of_words >= #{least} AND share >= #{share}
      ORDER BY of_words DESC, words, share DESC, key LIMIT #{limit}""")
  List<OpenedShareRow> opened(
      @Param("endpoint") String endpoint,
      @Param("from") String from,
      @Param("words") @Nullable String words,
      @Param("least") int least,
      @Param("share") double share,
      @Param("limit") int limit);

  /** Turns the hours of days before one into days. */
  @Insert(
      """
      INSERT INTO searched
      SELECT endpoint, substr(hour, 1, 10), words, sum(searches), sum(without_results),
        sum(few_results), sum(results), sum(millis), max(slowest), sum(relaxed), sum(corrected),
        sum(curated), sum(later_pages), sum(opened), sum(opens), sum(positions)
      FROM searched WHERE hour < #{day} AND length(hour) > 10
      GROUP BY endpoint, substr(hour, 1, 10), words
      """
          + ADDING)
  void addDays(@Param("day") String day);

  @Delete("DELETE FROM searched WHERE hour < #{day} AND length(hour) > 10")
  void removeHours(@Param("day") String day);

  @Delete("DELETE FROM searched WHERE hour < #{day}")
  void forgetBefore(@Param("day") String day);

  @Delete("DELETE FROM opened_record WHERE day < #{day}")
  void forgetOpenedBefore(@Param("day") String day);

  @Delete("DELETE FROM used_facet WHERE day < #{day}")
  void forgetFacetsBefore(@Param("day") String day);

  /**
   * Notes that a batch of counts has arrived from a search node.
   *
   * @param run which process has sent it
   * @param number counts the batches of that process
   * @return 0 if it, or a later one, had arrived before
   */
  @Insert(
      """
      INSERT INTO passed_counts (run, number, at) VALUES (#{run}, #{number}, #{at})
      ON CONFLICT (run) DO UPDATE SET number = excluded.number, at = excluded.at
      WHERE excluded.number > number""")
  int notePassed(@Param("run") String run, @Param("number") long number, @Param("at") String at);

  @Delete("DELETE FROM passed_counts WHERE at < #{day}")
  void forgetPassedBefore(@Param("day") String day);
}
