package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Place;

/** Counts places by square of a web map. Values are written {@code zoom/x/y}. */
final class CellCounts extends FacetCounter {
  private final CellFacet request;
  private final Field field;
  private final Map<Area.Tile, long[]> counts = new HashMap<>();
  private final Recent recent = new Recent();

  CellCounts(CellFacet request, Field field) {
    this.request = request;
    this.field = field;
    request.chosen().forEach(tile -> counts.put(tile, new long[1]));
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    SegmentReader.PlaceColumn places = segment.places(field);
    PackedNumbers.Walk latitudes = places.latitudes().walk();
    PackedNumbers.Walk longitudes = places.longitudes().walk();
    List<Area.Tile> others =
        request.chosen().stream().filter(tile -> tile.zoom() != request.zoom()).toList();
    for (int doc = docs.next(0); doc >= 0 && budget.step(); doc = docs.next(doc + 1)) {
      if (!places.present().has(doc)) {
        continue;
      }
      long latitude = latitudes.get(doc);
      long longitude = longitudes.get(doc);
      recent.counter(latitude, longitude)[0]++;
      for (Area.Tile tile : others) {
        if (tile.contains(Place.degrees(latitude), Place.degrees(longitude))) {
          counter(tile)[0]++;
        }
      }
      refuseTooMany();
    }
  }

  private long[] counter(Area.Tile tile) {
    return counts.computeIfAbsent(tile, counted -> new long[1]);
  }

  /**
   * The counters of places that were counted lately. Many documents are at the same places, such as
   * plants in a bed, and it takes long to compute a square.
   */
  private final class Recent {
    private static final int BITS = 10;

    private final long[] latitudes = new long[1 << BITS];
    private final long[] longitudes = new long[1 << BITS];
    private final long @Nullable [][] counters = new long[1 << BITS][];

    long[] counter(long latitude, long longitude) {
      int at = (int) ((latitude * 31 + longitude) * 0x9E3779B97F4A7C15L >>> (Long.SIZE - BITS));
      long[] known = counters[at];
      if (known == null || latitudes[at] != latitude || longitudes[at] != longitude) {
        known =
            CellCounts.this.counter(
                Area.Tile.of(request.zoom(), Place.degrees(latitude), Place.degrees(longitude)));
        latitudes[at] = latitude;
        longitudes[at] = longitude;
        counters[at] = known;
      }
      return known;
    }
  }

  private void refuseTooMany() {
    if (counts.size() > MAX_VALUES) {
      throw new QueryRefusedException(
          "facet '%s' has more than %d squares; ask for a lower zoom"
              .formatted(request.name(), MAX_VALUES));
    }
  }

  @Override
  public FacetPart part() {
    Map<String, Long> all = new HashMap<>();
    counts.forEach((tile, count) -> all.put(tile.toString(), count[0]));
    return new FacetPart.Texts(all);
  }

  @Override
  public void add(FacetPart part) {
    ((FacetPart.Texts) part)
        .counts()
        .forEach((tile, count) -> counter(Area.Tile.parse(tile))[0] += count);
    refuseTooMany();
  }

  @Override
  public FacetResult result() {
    List<FacetResult.Value> values = new ArrayList<>();
    counts.forEach(
        (tile, count) ->
            values.add(
                new FacetResult.Value(tile.toString(), count[0], request.chosen().contains(tile))));
    return ValueOrder.result(
        new ValueFacet(
            request.name(), request.field(), List.of(), request.limit(), FacetOrder.COUNT),
        field,
        values);
  }
}
