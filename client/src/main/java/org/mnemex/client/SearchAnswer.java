package org.mnemex.client;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * The answer of a search.
 *
 * @param groups how many groups there are; null: not grouped
 * @param facets by name, in the order of the endpoint
 * @param asOf what the answer is true for
 * @param didYouMean what was likely meant, if little was found
 * @param card which shown fields name a result
 * @param next what to go on from behind these results
 */
public record SearchAnswer(
    Total total,
    @Nullable Long groups,
    List<Result> results,
    Map<String, Facet> facets,
    List<Chosen> chosen,
    int page,
    int pages,
    AsOf asOf,
    double millis,
    @Nullable String didYouMean,
    @Nullable String next,
    Card card) {
  /**
   * Which shown fields name a result.
   *
   * @param title null: its key does
   */
  public record Card(@Nullable String title, @Nullable String subtitle, @Nullable String picture) {}

  public record Total(long count, boolean exact) {}

  /**
   * A record that was found.
   *
   * @param fields a single value stands by itself, several as a list
   * @param highlights escaped HTML with {@code <mark>}
   * @param distances of shown places from the caller's place, in metres; null without either
   * @param rows the rows of shown groups that meet what was asked, by group; null if nothing was
   *     asked of one
   * @param link where the result leads; null if the endpoint says nothing of it
   * @param stale true if the record is in quarantine and this is what it was before; else null
   * @param group the group whose best result this is; null: not grouped
   */
  public record Result(
      String key,
      double score,
      Map<String, Object> fields,
      Map<String, List<String>> highlights,
      @Nullable Map<String, Long> distances,
      @Nullable Map<String, List<Object>> rows,
      @Nullable String link,
      @Nullable Boolean stale,
      @Nullable Group group) {}

  /**
   * Results with the same value.
   *
   * @param value null if the record has none
   * @param count how many records belong to it
   * @param results the next best of them
   */
  public record Group(@Nullable String value, long count, List<Result> results) {}

  /**
   * A facet with its counts, or its statistics.
   *
   * @param statistics instead of values, if the facet tells these
   */
  public record Facet(
      String title,
      List<FacetValue> values,
      boolean more,
      boolean searchable,
      @Nullable Statistics statistics) {}

  /**
   * The values of a number in short.
   *
   * @param percentiles values by share in percent; null if none are asked for
   */
  public record Statistics(
      long count,
      String least,
      String greatest,
      @Nullable String sum,
      @Nullable Double mean,
      @Nullable Map<String, String> percentiles) {}

  /**
   * One value of a facet.
   *
   * @param split the counts of the facet that this one is split by; null if it is not
   */
  public record FacetValue(
      String value, String label, long count, boolean chosen, @Nullable List<FacetValue> split) {}

  public record Chosen(String facet, String value, String label, String remove) {}

  public record AsOf(@Nullable String position, @Nullable String time, int edition) {}
}
