package org.mnemex.engine.request;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.highlight.HighlightRequest;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Place;

/**
 * A search.
 *
 * @param query what to match and to score
 * @param filter what results must match besides; never scores
 * @param sorts order of results, most important first; none: by relevance
 * @param offset how many results to pass over, from 0
 * @param size how many results to return, from 0
 * @param facets facets to count; what is chosen in them narrows the results
 * @param show stored fields to return
 * @param highlights fields to highlight
 * @param signals what multiplies relevance
 * @param leastScore results that score less are left out; 0: none are
 * @param countUpTo the total is exact up to here; beyond it may be "at least" so many, and searches
 *     for the best results become faster; with 0 also any of several results may be returned that
 *     score the same
 * @param after return only what comes after this place in the order; null: from the start
 * @param group only the best results of each value of a field are returned; null: all are
 * @param limits what the search may cost
 */
public record SearchRequest(
    Query query,
    Query filter,
    List<Sort> sorts,
    int offset,
    int size,
    List<FacetRequest> facets,
    Set<String> show,
    List<HighlightRequest> highlights,
    List<Signal> signals,
    double leastScore,
    long countUpTo,
    @Nullable Cursor after,
    @Nullable Group group,
    SearchLimits limits) {

  /** Deepest result that may be asked for by number; a {@link Cursor} goes deeper. */
  public static final int DEEPEST = 10_000;

  /** Most fields that results may be sorted by. */
  public static final int MAX_SORTS = 8;

  public SearchRequest {
    sorts = List.copyOf(sorts);
    facets = List.copyOf(facets);
    show = Collections.unmodifiableSet(new LinkedHashSet<>(show));
    highlights = List.copyOf(highlights);
    signals = List.copyOf(signals);
    if (offset < 0 || size < 0) {
      throw new QueryRefusedException("offset and size count from 0");
    }
    if (group != null && (long) size * group.best() > DEEPEST) {
      throw new QueryRefusedException(
          "groups have more than " + DEEPEST + " results together; ask for fewer");
    }
    if (sorts.size() > MAX_SORTS) {
      throw new QueryRefusedException("results are sorted by at most " + MAX_SORTS + " fields");
    }
    if ((long) offset + size > DEEPEST) {
      throw new QueryRefusedException(
          "results beyond number "
              + DEEPEST
              + " cannot be asked for by page; narrow the search, or go on with the cursor of the"
              + " last result");
    }
  }

  /**
   * A search with an exact total, without signals, from the start.
   *
   * @param sort null: by relevance
   */
  public SearchRequest(
      Query query,
      Query filter,
      @Nullable Sort sort,
      int offset,
      int size,
      List<FacetRequest> facets,
      Set<String> show,
      List<HighlightRequest> highlights) {
    this(
        query,
        filter,
        sort == null ? List.of() : List.of(sort),
        offset,
        size,
        facets,
        show,
        highlights,
        List.of(),
        0,
        Long.MAX_VALUE,
        null,
        null,
        SearchLimits.NONE);
  }

  /** The first results of a query, by relevance, with the given fields. */
  public static SearchRequest of(Query query, int size, String... show) {
    return new SearchRequest(
        query, new Query.Everything(), null, 0, size, List.of(), Set.of(show), List.of());
  }

  /** The same with another query and filter. */
  public SearchRequest asking(Query other, Query otherFilter) {
    return new SearchRequest(
        other,
        otherFilter,
        sorts,
        offset,
        size,
        facets,
        show,
        highlights,
        signals,
        leastScore,
        countUpTo,
        after,
        group,
        limits);
  }

  /** The same from another place in the order on, with other facets. */
  public SearchRequest at(int otherOffset, int otherSize, List<FacetRequest> counted) {
    return new SearchRequest(
        query,
        filter,
        sorts,
        otherOffset,
        otherSize,
        counted,
        show,
        highlights,
        signals,
        leastScore,
        countUpTo,
        after,
        group,
        limits);
  }

  /** The same in another order. */
  public SearchRequest sortedBy(List<Sort> order) {
    return new SearchRequest(
        query,
        filter,
        order,
        offset,
        size,
        facets,
        show,
        highlights,
        signals,
        leastScore,
        countUpTo,
        after,
        group,
        limits);
  }

  /** The same with the best results of each group; {@code offset} and {@code size} count groups. */
  public SearchRequest groupedBy(@Nullable Group by) {
    return new SearchRequest(
        query,
        filter,
        sorts,
        offset,
        size,
        facets,
        show,
        highlights,
        signals,
        leastScore,
        countUpTo,
        after,
        by,
        limits);
  }

  /** The same with a total that need not be exact beyond {@code count}. */
  public SearchRequest countingUpTo(long count) {
    return with(signals, leastScore, count, after, limits);
  }

  /** The same with ranking signals. */
  public SearchRequest rankedBy(List<Signal> ranking) {
    return with(ranking, leastScore, countUpTo, after, limits);
  }

  /** The same without results that score less. */
  public SearchRequest scoringAtLeast(double least) {
    return with(signals, least, countUpTo, after, limits);
  }

  /** The same from after a place in the order. */
  public SearchRequest after(@Nullable Cursor place) {
    return with(signals, leastScore, countUpTo, place, limits);
  }

  /** The same within limits. */
  public SearchRequest within(SearchLimits bounds) {
    return with(signals, leastScore, countUpTo, after, bounds);
  }

  /** The same with other facets, without results. */
  public SearchRequest onlyFacets(List<FacetRequest> counted) {
    return new SearchRequest(
        query,
        filter,
        List.of(),
        0,
        0,
        counted,
        Set.of(),
        List.of(),
        signals,
        leastScore,
        countUpTo,
        null,
        null,
        limits);
  }

  private SearchRequest with(
      List<Signal> ranking, double least, long count, @Nullable Cursor place, SearchLimits bounds) {
    return new SearchRequest(
        query,
        filter,
        sorts,
        offset,
        size,
        facets,
        show,
        highlights,
        ranking,
        least,
        count,
        place,
        group,
        bounds);
  }

  /**
   * A sort by a field's values, or by distance to a place; of several values the best one counts.
   * Equal documents are sorted by what is asked for next, then by relevance, then by key.
   *
   * @param from place fields only: nearest to here first
   * @param missingFirst whether documents without a value come first, in both directions
   * @param language fields of texts only: whose order of names, as a tag like {@code sv}; null: by
   *     the numbers of characters
   */
  public record Sort(
      String field,
      boolean descending,
      @Nullable Place from,
      boolean missingFirst,
      @Nullable String language) {
    /** By a field's values or distance, documents without a value last. */
    public Sort(String field, boolean descending, @Nullable Place from) {
      this(field, descending, from, false, null);
    }

    /** By a field's values, documents without a value last. */
    public Sort(String field, boolean descending) {
      this(field, descending, null);
    }
  }

  /**
   * Results in groups. A group stands where its best result does. Documents without a value are a
   * group of their own each; of several values the first one counts.
   *
   * @param field an exact, number or date field with one of the uses filter, facet and sort
   * @param best how many results of each group are returned, from 1
   */
  public record Group(String field, int best) {
    /** Most results of a group. */
    public static final int MAX_BEST = 100;

    public Group {
      if (best < 1 || best > MAX_BEST) {
        throw new QueryRefusedException("the best 1 to " + MAX_BEST + " results of a group");
      }
    }
  }

  /**
   * A place in the order of results: after the result that had these.
   *
   * @param sortValues one for each sort, as in {@link SearchResult.Hit#cursor()}; null in it where
   *     there is no value
   * @param basis what the scores were computed with; null: what the edition says now
   */
  public record Cursor(
      List<@Nullable Object> sortValues, double score, String key, @Nullable Basis basis) {
    public Cursor {
      sortValues = Collections.unmodifiableList(new ArrayList<>(sortValues));
    }
  }

  /**
   * What scores depend on besides query and document. A continued search uses the same numbers, so
   * that a document that did not change has the score that it had on the page before, whatever
   * happened to others meanwhile.
   *
   * @param rarities inverse document frequency of every word of the query, in its order
   * @param averageLengths of every text field of the query, in the order of their names, in words
   * @param now from when ages count; null if no signal does
   */
  public record Basis(List<Double> rarities, List<Double> averageLengths, @Nullable Instant now) {
    public Basis {
      rarities = List.copyOf(rarities);
      averageLengths = List.copyOf(averageLengths);
      if (!Stream.concat(rarities.stream(), averageLengths.stream())
          .allMatch(number -> number > 0 && number < 1e12)) {
        throw new IllegalArgumentException("numbers of scores are above 0");
      }
    }
  }
}
