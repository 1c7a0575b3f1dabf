package org.mnemex.client;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * The answer of a search.
 *
 * @param id names this answer for {@link MnemexClient#chosen}; null if searches are not counted
 * @param total how many records match; null if the call did not want to know
 * @param groups how many groups there are; null if results are not grouped
 * @param results one page of results
 * @param facets facets by name, in the order of the endpoint's definition
 * @param chosen the chosen facet values, each with the query string that removes it
 * @param page number of the page, from 1
 * @param pages how many pages there are; null without {@code total}
 * @param asOf the state of the database that the answer is true for
 * @param millis how long the search took in the service, in milliseconds
 * @param didYouMean what was probably meant, if little was found; otherwise null
 * @param leftOut words that were left out because the others find more; null if none were
 * @param missingShards numbers of shards that no search node could be asked for, so that their
 *     records are not in the answer; null if it is complete
 * @param curated the rules of curations that apply; null if there are none
 * @param next pass it as {@code after} for the next results; null if there are none
 * @param card the roles of shown fields in a result
 */
public record SearchAnswer(
    @Nullable String id,
    @Nullable Total total,
    @Nullable Long groups,
    List<Result> results,
    Map<String, Facet> facets,
    List<Chosen> chosen,
    int page,
    @Nullable Integer pages,
    AsOf asOf,
    double millis,
    @Nullable String didYouMean,
    @Nullable List<String> leftOut,
    @Nullable List<Integer> missingShards,
    @Nullable List<Curated> curated,
    @Nullable String next,
    Card card) {
  /**
   * How many records match.
   *
   * @throws IllegalStateException if the call did not want to know
   */
  public long found() {
    if (total == null) {
      throw new IllegalStateException("the search was asked for without a total");
    }
    return total.count();
  }

  /**
   * The roles of shown fields in a result.
   *
   * @param title the field that names a result; null if its key does
   * @param subtitle the field below the title, or null
   * @param picture the field with the address of a picture, or null
   */
  public record Card(@Nullable String title, @Nullable String subtitle, @Nullable String picture) {}

  /**
   * A rule of a curation that applies to the search.
   *
   * @param curation name of the curation
   * @param rule name of the rule
   * @param message what to say beside the results, or null
   * @param link where the message leads, or null
   */
  public record Curated(
      String curation, String rule, @Nullable String message, @Nullable String link) {}

  /**
   * How many records match.
   *
   * @param count the number
   * @param exact whether it is exact; if not, it is a lower bound
   */
  public record Total(long count, boolean exact) {}

  /**
   * A record that matches.
   *
   * @param key key of the record
   * @param score its score
   * @param fields shown fields; single values as they are, several values as a list
   * @param highlights highlighted fragments by field, escaped HTML with {@code <mark>}
   * @param distances distances of shown places from the caller's {@code near}, in metres; null
   *     without one
   * @param rows rows of shown groups that match, by group; null if the search has no condition on a
   *     group
   * @param link where the result leads; null if the endpoint does not say
   * @param stale true if the record is in quarantine and this is its previous content; otherwise
   *     null
   * @param putFirst true if a rule of a curation put it first; otherwise null
   * @param group the group whose best result this is; null if results are not grouped
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
      @Nullable Boolean putFirst,
      @Nullable Group group) {}

  /**
   * Results with the same value.
   *
   * @param value the common value; null if the record has none
   * @param count number of records in the group
   * @param results the next best results of the group
   */
  public record Group(@Nullable String value, long count, List<Result> results) {}

  /**
   * A facet with its counts or its statistics.
   *
   * @param title what people read
   * @param values values with their counts
   * @param more whether there are more values than shown
   * @param searchable whether values can be found by their first letters
   * @param statistics statistics in place of values, or null
   */
  public record Facet(
      String title,
      List<FacetValue> values,
      boolean more,
      boolean searchable,
      @Nullable Statistics statistics) {}

  /**
   * Statistics of a number.
   *
   * @param count number of values
   * @param least the lowest value
   * @param greatest the highest value
   * @param sum the sum; null for dates
   * @param mean the mean; null for dates
   * @param percentiles values by percentage, as the definition lists them; null if it lists none
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
   * @param value pass it as the facet's parameter to choose it
   * @param label what people read
   * @param count number of matching records
   * @param chosen whether it is chosen
   * @param split counts of the facet that divides this one; null if none does
   */
  public record FacetValue(
      String value, String label, long count, boolean chosen, @Nullable List<FacetValue> split) {}

  /**
   * A chosen facet value.
   *
   * @param facet name of the facet
   * @param value the value
   * @param label what people read
   * @param remove query string of the same search without this choice
   */
  public record Chosen(String facet, String value, String label, String remove) {}

  /**
   * The state of the database that an answer is true for.
   *
   * @param position all changes up to this position are included
   * @param time the database's time at that position, ISO 8601; null if not known yet
   * @param edition number of the edition that answered
   */
  public record AsOf(@Nullable String position, @Nullable String time, int edition) {}
}
