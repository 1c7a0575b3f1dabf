package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.IdentityHashMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.Budget;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Collation;
import org.mnemex.engine.text.Folding;

/**
 * One of the fields that results are sorted by.
 *
 * <p>Within a segment everything compares as numbers: values by their places in the dictionary or
 * the ranks of these. Across segments values compare by what they are.
 */
final class SortKey {
  private final Field field;
  private final SearchRequest.Sort sort;
  private final @Nullable Collation collation;
  private final Budget budget;
  private final IdentityHashMap<SegmentReader, InSegment> segments = new IdentityHashMap<>();

  private SortKey(Field field, SearchRequest.Sort sort, Budget budget) {
    this.field = field;
    this.sort = sort;
    this.budget = budget;
    this.collation = sort.language() == null ? null : Collation.of(sort.language());
  }

  /**
   * A field to sort by.
   *
   * @throws QueryRefusedException if it cannot be sorted so
   */
  static SortKey of(SearchRequest.Sort sort, Schema schema, Budget budget) {
    Field field = schema.field(sort.field());
    if (!field.uses().contains(Use.SORT) || field.isChild()) {
      throw new QueryRefusedException(
          "field '" + field.name() + "' cannot be sorted by; give it the use 'sort' in the index");
    }
    if ((field.type() == FieldType.PLACE) != (sort.from() != null)) {
      throw new QueryRefusedException(
          field.type() == FieldType.PLACE
              ? "sorting by place '" + field.name() + "' needs a place to measure from"
              : "field '" + field.name() + "' is not a place, so it has no distance");
    }
    if (sort.language() != null && !field.type().isOrdinal()) {
      throw new QueryRefusedException(
          "field '%s' (%s) has no order of a language; only names have"
              .formatted(field.name(), field.type().word()));
    }
    try {
      return new SortKey(field, sort, budget);
    } catch (IllegalArgumentException e) {
      throw new QueryRefusedException(String.valueOf(e.getMessage()), e);
    }
  }

  /** The field's values in a segment. */
  InSegment in(SegmentReader segment) {
    return segments.computeIfAbsent(segment, InSegment::new);
  }

  /** The field's values in one segment. */
  final class InSegment {
    private final SegmentReader segment;
    private final @Nullable Column column;
    private final @Nullable Ranks ranks;
    private final SegmentReader.@Nullable PlaceColumn places;

    private InSegment(SegmentReader segment) {
      this.segment = segment;
      boolean place = field.type() == FieldType.PLACE;
      this.column = place ? null : segment.column(field);
      this.places = place ? segment.places(field) : null;
      this.ranks = ranks(segment);
    }

    boolean has(int doc) {
      return places != null ? places.present().has(doc) : column != null && column.has(doc);
    }

    /** What a document with a value compares by, before it is told whether it descends. */
    long number(int doc) {
      if (places != null && sort.from() != null) {
        return Double.doubleToLongBits(
            sort.from()
                .metresTo(
                    Place.degrees(places.latitudes().get(doc)),
                    Place.degrees(places.longitudes().get(doc))));
      }
      return column == null ? 0 : best(column, ranks, doc, false);
    }

    /**
     * All documents in this order, equal ones by key; null if it depends on the caller, or there
     * are too many.
     */
    int @Nullable [] documents() {
      return field.type() == FieldType.PLACE || segment.documents() > SortedDocuments.MAX_DOCUMENTS
          ? null
          : segment.derived(
              "documents by %s %s %s %s"
                  .formatted(field.name(), sort.descending(), sort.missingFirst(), sort.language()),
              () -> SortedDocuments.of(segment, this, budget));
    }

    /**
     * The rank of a document's value in this order; equal values have the same rank.
     *
     * @param different all different numbers, ascending
     */
    long place(int doc, long[] different) {
      if (!has(doc)) {
        return sort.missingFirst() ? 0 : 1L + different.length;
      }
      int place = Arrays.binarySearch(different, number(doc));
      return 1L + (sort.descending() ? different.length - 1 - place : place);
    }

    /** The order of two documents; at a time of no value as the sort says. */
    int compare(int a, int b) {
      boolean hasA = has(a);
      boolean hasB = has(b);
      return hasA && hasB ? directed(Long.compare(number(a), number(b))) : missing(hasA, hasB);
    }

    int compare(boolean hasA, long a, boolean hasB, long b) {
      return hasA && hasB ? directed(Long.compare(a, b)) : missing(hasA, hasB);
    }
  }

  /** The rank of each place of a dictionary. */
  @FunctionalInterface
  private interface Ranks {
    long of(long place);
  }

  private @Nullable Ranks ranks(SegmentReader segment) {
    if (collation != null) {
      int[] ranks =
          segment.derived(
              "order of " + field.name() + " in " + sort.language(),
              () -> collated(segment.values(field)));
      return place -> ranks[(int) place];
    }
    if (!field.fold()) {
      return null;
    }
    PackedNumbers folded = segment.foldedRanks(field);
    return folded::get;
  }

  private int[] collated(Dictionary values) {
    byte[][] keys = new byte[values.size()][];
    Integer[] places = new Integer[keys.length];
    budget.take(24L * keys.length);
    Dictionary.Walk walk = values.walk();
    for (int i = 0; walk.next(); i++) {
      if (!budget.step()) {
        // Half of an order must not be kept.
        throw budget.tooLate();
      }
      keys[i] = comparable(new String(walk.term(), StandardCharsets.UTF_8));
      budget.take(keys[i].length);
      places[i] = i;
    }
    Arrays.sort(places, (a, b) -> Arrays.compareUnsigned(keys[a], keys[b]));
    int[] ranks = new int[keys.length];
    int rank = 0;
    for (int i = 0; i < places.length; i++) {
      if (i > 0 && !Arrays.equals(keys[places[i - 1]], keys[places[i]])) {
        rank = i;
      }
      ranks[places[i]] = rank;
    }
    return ranks;
  }

  /**
   * The best of a document's values in this order: of a descending one the greatest.
   *
   * @param place whether to tell its number in the column instead of its rank
   */
  private long best(Column column, @Nullable Ranks ranks, int doc, boolean place) {
    int first = column.first(doc);
    int end = column.end(doc);
    if (ranks == null) {
      return column.value(sort.descending() ? end - 1 : first);
    }
    long best = column.value(first);
    long bestRank = ranks.of(best);
    for (int i = first + 1; i < end; i++) {
      long value = column.value(i);
      long rank = ranks.of(value);
      if (sort.descending() ? rank > bestRank : rank < bestRank) {
        best = value;
        bestRank = rank;
      }
    }
    return place ? best : bestRank;
  }

  private int directed(int ascending) {
    return sort.descending() ? -ascending : ascending;
  }

  /** Of two of which one has no value, or both. */
  private int missing(boolean hasA, boolean hasB) {
    int last = Boolean.compare(hasB, hasA);
    return sort.missingFirst() ? -last : last;
  }

  /**
   * Compares across segments.
   *
   * @param a as {@link #value} gives it
   */
  int compare(@Nullable Object a, @Nullable Object b) {
    if (a == null || b == null) {
      return missing(a != null, b != null);
    }
    return directed(
        switch (a) {
          case Long x -> Long.compare(x, (Long) b);
          case Double x -> Double.compare(x, (Double) b);
          default -> Arrays.compareUnsigned((byte[]) a, (byte[]) b);
        });
  }

  /** What a document is sorted by, for comparing: bytes, a number, metres; null without a value. */
  @Nullable Object value(SegmentReader segment, int doc) {
    Object told = told(segment, doc);
    return told == null ? null : comparableValue(told);
  }

  /** What a document is sorted by, as its cursor tells it; null without a value. */
  @Nullable Object told(SegmentReader segment, int doc) {
    InSegment here = in(segment);
    if (!here.has(doc)) {
      return null;
    }
    if (here.column == null) {
      return Double.longBitsToDouble(here.number(doc));
    }
    long best = best(here.column, here.ranks, doc, true);
    return field.type().isOrdinal()
        ? new String(segment.values(field).get((int) best), StandardCharsets.UTF_8)
        : field.fromNumber(best);
  }

  /**
   * What a cursor tells, for comparing.
   *
   * @throws QueryRefusedException if it tells of another sort
   */
  @Nullable Object parsed(@Nullable Object told) {
    try {
      return told == null ? null : comparableValue(told);
    } catch (ClassCastException e) {
      throw new QueryRefusedException("the cursor belongs to another sort", e);
    }
  }

  private Object comparableValue(Object told) {
    if (field.type() == FieldType.PLACE) {
      return ((Number) told).doubleValue();
    }
    return field.type().isOrdinal() ? comparable((String) told) : (Object) field.toNumber(told);
  }

  private byte[] comparable(String value) {
    String text = field.fold() ? Folding.foldCase(value) : value;
    return collation == null ? text.getBytes(StandardCharsets.UTF_8) : collation.key(text);
  }
}
