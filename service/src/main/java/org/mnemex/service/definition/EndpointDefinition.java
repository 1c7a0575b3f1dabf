package org.mnemex.service.definition;

import java.util.List;
import java.util.Map;
import java.util.Set;
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
 * @param search weight by field name; empty: all searchable fields with their own weights
 * @param words how many of the words must be found
 * @param only filter that no caller can lift, or null
 * @param sorts orders by the name that callers use, most important field first; none: by relevance
 * @param groups how results can be grouped, by the name that callers use
 * @param show fields that results show
 * @param card which of them name a result
 * @param typos whether words may have typing errors
 * @param close whether words that stand close together score more
 * @param signals numbers of a record that raise its relevance
 * @param lifts what multiplies the relevance of records that meet a filter
 * @param limitMillis how long a search may take
 * @param totalUpTo totals are exact up to here; where there are more, and no facet counts them, the
 *     total says that there are at least so many
 * @param leastScore results that score less are none; 0: all are
 */
public record EndpointDefinition(
    String name,
    String index,
    Map<String, Double> search,
    Wanted words,
    @Nullable String only,
    Map<String, Facet> facets,
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
    double leastScore) {

  /** The parameters of every search; facets are chosen by theirs. */
  public static final Set<String> PARAMETERS =
      Set.of(
          "q",
          "similar_to",
          "similar_text",
          "sort",
          "group",
          "page",
          "size",
          "typing",
          "near",
          "after",
          "where",
          "true_for");

  /** Parameters that other calls of an endpoint have beside those of a search. */
  public static final Set<String> OTHER_PARAMETERS = Set.of("key", "begins");

  /**
   * A facet.
   *
   * @param kind how it counts
   * @param none the value that stands for having none; null: such records are not counted
   * @param split another facet, which is counted within each value; or null
   * @param labels what people read, by value
   */
  public record Facet(
      String name,
      String field,
      String title,
      FacetKind kind,
      @Nullable String none,
      @Nullable String split,
      Map<String, String> labels) {

    /**
     * What the engine is asked to count.
     *
     * @param chosen what is chosen, as it was written
     * @param search only values that have a word beginning so; empty: all
     * @throws IllegalArgumentException with a sentence, if that cannot be counted, or what is
     *     chosen is no value
     * @throws org.mnemex.engine.error.QueryRefusedException if a bucket is none
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
   * A field that results are ordered by.
   *
   * @param missingFirst whether records without a value come first
   * @param language whose order of names, as a tag like {@code sv}, or null
   */
  public record SortBy(
      String field, boolean descending, boolean missingFirst, @Nullable String language) {}

  /**
   * A number of a record that raises its relevance.
   *
   * @param half where it is worth one half: the value, the age in days or the distance in metres;
   *     ignored for logarithms
   * @param curve how an age or a distance falls off
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
   * @param best how many results of each group are shown
   */
  public record GroupBy(String field, int best) {}

  /**
   * Records that come higher or lower.
   *
   * @param where a filter
   * @param by what their relevance is multiplied by
   */
  public record Lift(String where, double by) {}

  /**
   * How a field is marked.
   *
   * @param fragments 0: the whole value
   * @param sentences whether fragments are whole sentences
   * @param open what stands before what is marked, and behind it
   */
  public record Highlight(int fragments, int words, boolean sentences, String open, String close) {}
}
