package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.QueryRefusedException;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Folding;

/**
 * The total order of results: the sort if there is one, then relevance, then key.
 *
 * <p>Within a segment everything compares as numbers: values by their places in the dictionary,
 * keys by theirs. Only what is left of each segment compares by value.
 */
final class Order {
  private final @Nullable Field field;
  private final SearchRequest.@Nullable Sort sort;

  private Order(@Nullable Field field, SearchRequest.@Nullable Sort sort) {
    this.field = field;
    this.sort = sort;
  }

  /**
   * The order of a request.
   *
   * @throws QueryRefusedException if it cannot be sorted so
   */
  static Order of(SearchRequest.@Nullable Sort sort, Schema schema) {
    if (sort == null) {
      return new Order(null, null);
    }
    Field field = schema.field(sort.field());
    if (!field.uses().contains(Use.SORT) || field.isChild()) {
      throw new QueryRefusedException(
          "field '" + field.name() + "' cannot be sorted by; give it the use 'sort' in the index");
    }
    if ((field.type() == FieldType.PLACE) != (sort.from() != null)) {
      throw new QueryRefusedException(
          field.type() == FieldType.PLACE
              ? "sorting by place '" + field.name() + "' needs a place to measure from"
              : "field '" + field.name() + "' is no place to measure a distance to");
    }
    return new Order(field, sort);
  }

  boolean isByRelevance() {
    return sort == null;
  }

  /** One result that may be shown. */
  static final class Entry {
    private final SegmentReader segment;
    private final int doc;
    private final double score;
    private final long sortNumber;
    private final boolean missing;
    private byte @Nullable [] key;

    Entry(SegmentReader segment, int doc, double score, long sortNumber, boolean missing) {
      this.segment = segment;
      this.doc = doc;
      this.score = score;
      this.sortNumber = sortNumber;
      this.missing = missing;
    }

    SegmentReader segment() {
      return segment;
    }

    int doc() {
      return doc;
    }

    double score() {
      return score;
    }

    /** Read once: where many results have the same score, it decides again and again. */
    byte[] key() {
      byte[] read = key;
      if (read == null) {
        read = segment.key(doc);
        key = read;
      }
      return read;
    }
  }

  /** The order within a segment. */
  final class InSegment implements Comparator<Entry> {
    private final SegmentReader segment;
    private final @Nullable Column column;
    private final @Nullable PackedNumbers ranks;
    private final SegmentReader.@Nullable PlaceColumn places;

    InSegment(SegmentReader segment) {
      this.segment = segment;
      boolean place = field != null && field.type() == FieldType.PLACE;
      this.column = field == null || place ? null : segment.column(field);
      this.places = place ? segment.places(field) : null;
      this.ranks = field != null && field.fold() ? segment.foldedRanks(field) : null;
    }

    Entry entry(int doc, double score) {
      if (sort == null) {
        return new Entry(segment, doc, score, 0, false);
      }
      if (places != null && sort.from() != null) {
        boolean has = places.present().has(doc);
        double metres =
            has
                ? sort.from()
                    .metresTo(
                        Place.degrees(places.latitudes().get(doc)),
                        Place.degrees(places.longitudes().get(doc)))
                : 0;
        return new Entry(segment, doc, score, Double.doubleToLongBits(metres), !has);
      }
      if (column == null || !column.has(doc)) {
        return new Entry(segment, doc, score, 0, true);
      }
      if (ranks == null) {
        int index = sort.descending() ? column.end(doc) - 1 : column.first(doc);
        return new Entry(segment, doc, score, column.value(index), false);
      }
      long best = 0;
      for (int i = column.first(doc); i < column.end(doc); i++) {
        long rank = ranks.get(column.value(i));
        best =
            i == column.first(doc)
                ? rank
                : sort.descending() ? Math.max(best, rank) : Math.min(best, rank);
      }
      return new Entry(segment, doc, score, best, false);
    }

    @Override
    public int compare(Entry a, Entry b) {
      if (sort != null) {
        if (a.missing || b.missing) {
          if (a.missing != b.missing) {
            return a.missing ? 1 : -1;
          }
        } else if (a.sortNumber != b.sortNumber) {
          int ascending = Long.compare(a.sortNumber, b.sortNumber);
          return sort.descending() ? -ascending : ascending;
        }
      }
      int byScore = Double.compare(b.score, a.score);
      return byScore != 0
          ? byScore
          : Integer.compare(segment.keyPlace(a.doc), segment.keyPlace(b.doc));
    }
  }

  /** Compares by value, so across segments. */
  int compare(Entry a, Entry b) {
    if (sort != null) {
      int bySort = compareSort(sortValue(a), sortValue(b));
      if (bySort != 0) {
        return bySort;
      }
    }
    int byScore = Double.compare(b.score, a.score);
    return byScore != 0 ? byScore : Arrays.compareUnsigned(a.key(), b.key());
  }

  /** Whether a result comes behind a cursor. */
  boolean isBehind(Entry entry, SearchRequest.Cursor cursor) {
    if (sort != null) {
      int bySort = compareSort(sortValue(entry), cursorValue(cursor.sortValue()));
      if (bySort != 0) {
        return bySort > 0;
      }
    }
    int byScore = Double.compare(cursor.score(), entry.score);
    return byScore != 0
        ? byScore > 0
        : Arrays.compareUnsigned(entry.key(), cursor.key().getBytes(StandardCharsets.UTF_8)) > 0;
  }

  private @Nullable Object cursorValue(@Nullable Object value) {
    if (value == null || field == null) {
      return null;
    }
    try {
      if (field.type() == FieldType.PLACE) {
        return ((Number) value).doubleValue();
      }
      return field.type().isOrdinal() ? comparable((String) value) : (Object) field.toNumber(value);
    } catch (ClassCastException e) {
      throw new QueryRefusedException("the cursor belongs to another sort", e);
    }
  }

  private byte[] comparable(String value) {
    return (field != null && field.fold() ? Folding.foldCase(value) : value)
        .getBytes(StandardCharsets.UTF_8);
  }

  /** Missing values come last in both directions. */
  private int compareSort(@Nullable Object a, @Nullable Object b) {
    if (a == null || b == null) {
      return Boolean.compare(a == null, b == null);
    }
    int ascending =
        switch (a) {
          case Long x -> Long.compare(x, (Long) b);
          case Double x -> Double.compare(x, (Double) b);
          default -> Arrays.compareUnsigned((byte[]) a, (byte[]) b);
        };
    return sort != null && sort.descending() ? -ascending : ascending;
  }

  /** What an entry is sorted by: bytes, a number, metres; null if it has no value. */
  private @Nullable Object sortValue(Entry entry) {
    if (field == null || entry.missing) {
      return null;
    }
    if (field.type() == FieldType.PLACE) {
      return Double.longBitsToDouble(entry.sortNumber);
    }
    return field.type().isOrdinal() ? comparable(text(entry)) : (Object) entry.sortNumber;
  }

  private String text(Entry entry) {
    if (field == null || sort == null) {
      return "";
    }
    Column column = entry.segment.column(field);
    Dictionary values = entry.segment.values(field);
    int first = column.first(entry.doc);
    int end = column.end(entry.doc);
    if (!field.fold()) {
      return new String(values.get((int) entry.sortNumber), StandardCharsets.UTF_8);
    }
    PackedNumbers ranks = entry.segment.foldedRanks(field);
    for (int i = first; i < end; i++) {
      if (ranks.get(column.value(i)) == entry.sortNumber) {
        return new String(values.get((int) column.value(i)), StandardCharsets.UTF_8);
      }
    }
    throw new IllegalStateException("no value has the rank that was sorted by");
  }

  /** The place in the order that an entry has. */
  SearchRequest.Cursor cursor(Entry entry, SearchRequest.Basis basis) {
    Object value = null;
    if (field != null && !entry.missing) {
      value =
          field.type() == FieldType.PLACE
              ? (Object) Double.longBitsToDouble(entry.sortNumber)
              : field.type().isOrdinal() ? text(entry) : field.fromNumber(entry.sortNumber);
    }
    return new SearchRequest.Cursor(
        value, entry.score, new String(entry.key(), StandardCharsets.UTF_8), basis);
  }

  /** The first of all segments' entries. */
  List<Entry> first(List<Entry> entries, int count) {
    return entries.stream().sorted(this::compare).limit(count).toList();
  }
}
