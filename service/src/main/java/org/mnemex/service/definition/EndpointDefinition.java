package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.facet.OrNoneFacet;
import org.mnemex.engine.query.Wanted;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/**
 * A published search over one index. Maps keep the order of the definition.
 *
 * @param name name of the endpoint
 * @param index the index that it searches
 * @param title the heading of its page
 * @param search weight by field; empty searches all text fields with their own weights
 * @param languages the same as {@code search} for callers who state a language, by BCP 47 tag
 * @param words how many of the words must match
 * @param only filter that callers cannot lift, or null
 * @param facets facets by name
 * @param countable fields among the facets that have no definition as a facet
 * @param completions what completes a text as it is typed, in order
 * @param sorts sort orders by name, most significant field first; without one, results are sorted
 *     by relevance
 * @param groups ways to group results, by name
 * @param show fields that results show
 * @param card the roles of shown fields in a result
 * @param highlights how each field is highlighted
 * @param pageSize results per page if the caller does not say
 * @param pageMost the most results per page that a caller may ask for
 * @param typos whether words may contain typing errors
 * @param close whether words close together score higher
 * @param signals numbers of a record that raise its score
 * @param lifts filters that multiply the score of matching records
 * @param limitMillis how long a search may take, in milliseconds
 * @param totalUpTo totals are exact up to this number; above it, without a facet that counts all,
 *     the total is a lower bound
 * @param leastScore the lowest score of a result; 0 for no limit
 * @param origins origins of pages that may call it from browsers, such as {@code https://a.example}
 * @param perMinute the most calls in a minute, of all callers together; 0 for no limit
 * @param leavesOutShards whether searches do without shards that no search node has now, instead of
 *     being refused
 */
public record EndpointDefinition(
    String name,
    String index,
    String title,
    Map<String, Double> search,
    Map<String, Map<String, Double>> languages,
    Wanted words,
    @Nullable String only,
    Map<String, Facet> facets,
    List<String> countable,
    List<CompletionSource> completions,
    Map<String, List<SortBy>> sorts,
    Map<String, GroupBy> groups,
    List<String> show,
    Card card,
    Map<String, Highlight> highlights,
    int pageSize,
    int pageMost,
    boolean typos,
    boolean close,
    List<RankSignal> signals,
    List<Lift> lifts,
    int limitMillis,
    int totalUpTo,
    double leastScore,
    List<String> origins,
    int perMinute,
    boolean leavesOutShards) {

  /** The parameters of every search; each facet adds one of its own name. */
  public static final Set<String> PARAMETERS =
      Set.of(
          "q",
          "similar_to",
          "similar_text",
          "typing",
          "words",
          "language",
          "relax",
          "where",
          "sort",
          "group",
          "page",
          "size",
          "skip",
          "top",
          "after",
          "total",
          "fields",
          "counts",
          "highlights",
          "near",
          "true_for");

  /** Parameters of an endpoint's other calls, in addition to those of a search. */
  public static final Set<String> OTHER_PARAMETERS = Set.of("key", "begins", "endpoint");

  /** The definitions of phrases that it names. */
  public Set<String> phrases() {
    Set<String> names = new TreeSet<>();
    for (CompletionSource source : completions) {
      if (source instanceof CompletionSource.Given given) {
        names.addAll(given.of());
      }
    }
    return names;
  }

  /**
   * A facet.
   *
   * @param name name of the facet
   * @param field the field that it counts
   * @param title what people read
   * @param kind how it counts
   * @param none the value that stands for records without a value; null leaves them out
   * @param split another facet that is counted within each value, or null
   * @param labels what people read for each value
   * @param onRequest whether it is counted only for callers who ask for it
   */
  public record Facet(
      String name,
      String field,
      String title,
      FacetKind kind,
      @Nullable String none,
      @Nullable String split,
      Map<String, String> labels,
      boolean onRequest) {

    /**
     * The request to the engine.
     *
     * @param chosen what is chosen, as it was written
     * @param search only values with a word that begins with this; empty: all
     * @throws IllegalArgumentException with a sentence, if that cannot be counted, or a chosen
     *     value is not one of the field
     * @throws org.mnemex.engine.error.QueryRefusedException if a bucket is invalid
     */
    public FacetRequest request(Field counted, List<String> chosen, String search) {
      if ((kind instanceof SquareKind) != (counted.type() == FieldType.PLACE)) {
        throw new IllegalArgumentException(
            "'cells' is for places, and places are counted by it; field '%s' is of type %s"
                .formatted(counted.name(), counted.type().word()));
      }
      if (none == null || !search.isEmpty()) {
        return kind.request(this, counted, chosen, search);
      }
      List<String> values = chosen.stream().filter(value -> !value.equals(none)).toList();
      return new OrNoneFacet(
          kind.request(this, counted, values, search), none, values.size() < chosen.size());
    }
  }

  /**
   * A field to sort by.
   *
   * @param field the field
   * @param descending whether the highest value comes first
   * @param missingFirst whether records without a value come first
   * @param language language whose collation is used, as a BCP 47 tag like {@code sv}, or null
   */
  public record SortBy(
      String field, boolean descending, boolean missingFirst, @Nullable String language) {}

  /**
   * A number of a record that raises its score.
   *
   * @param field the field with the number
   * @param shape how the number becomes a factor
   * @param weight how much it counts
   * @param half where it is worth one half: a value, an age in days or a distance in metres; unused
   *     for logarithms
   * @param curve how an age or a distance decays
   */
  public record RankSignal(
      String field, Shape shape, double weight, double half, Signal.Curve curve) {
    /** How the number counts. */
    public enum Shape {
      LOGARITHM,
      SATURATING,
      AGE,
      DISTANCE
    }
  }

  /**
   * A field whose values make groups of results.
   *
   * @param field the field whose values form the groups
   * @param best how many results of each group are shown
   */
  public record GroupBy(String field, int best) {}

  /**
   * A filter that multiplies the score of matching records.
   *
   * @param where the filter
   * @param by the factor
   */
  public record Lift(String where, double by) {}

  /**
   * How a field is highlighted.
   *
   * @param fragments number of fragments; 0 for the whole value
   * @param words number of words in a fragment
   * @param sentences whether fragments are whole sentences
   * @param open markup before a highlighted word
   * @param close markup after a highlighted word
   */
  public record Highlight(int fragments, int words, boolean sentences, String open, String close) {}
}
