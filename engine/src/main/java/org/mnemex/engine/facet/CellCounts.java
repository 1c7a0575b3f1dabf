package org.mnemex.engine.facet;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
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

  CellCounts(CellFacet request, Field field) {
    this.request = request;
    this.field = field;
    request.chosen().forEach(tile -> counts.put(tile, new long[1]));
  }

  @Override
  public void count(SegmentReader segment, DocBits docs) {
    SegmentReader.PlaceColumn places = segment.places(field);
    List<Area.Tile> others =
        request.chosen().stream().filter(tile -> tile.zoom() != request.zoom()).toList();
    for (int doc = docs.next(0); doc >= 0 && budget.step(); doc = docs.next(doc + 1)) {
      if (!places.present().has(doc)) {
        continue;
      }
      double latitude = Place.degrees(places.latitudes().get(doc));
      double longitude = Place.degrees(places.longitudes().get(doc));
      counts
          .computeIfAbsent(Area.Tile.of(request.zoom(), latitude, longitude), tile -> new long[1])[
          0]++;
      for (Area.Tile tile : others) {
        if (tile.contains(latitude, longitude)) {
          counts.computeIfAbsent(tile, other -> new long[1])[0]++;
        }
      }
      refuseTooMany();
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
  public void add(FacetCounter other) {
    ((CellCounts) other)
        .counts.forEach(
            (tile, count) -> counts.computeIfAbsent(tile, own -> new long[1])[0] += count[0]);
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
