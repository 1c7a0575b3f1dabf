package org.mnemex.engine.facet;

import java.util.List;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;

/**
 * Counts places by square of a web map, most frequent first.
 *
 * @param zoom of the squares, see {@link Area.Tile}
 * @param chosen chosen squares of any zoom; a result must be in one
 * @param limit the maximum number of squares in the result, in addition to chosen ones
 */
public record CellFacet(String name, String field, int zoom, List<Area.Tile> chosen, int limit)
    implements FacetRequest {
  public CellFacet {
    chosen = List.copyOf(chosen);
    if (zoom < 0 || zoom > Area.Tile.MAX_ZOOM) {
      throw new QueryRefusedException(
          "facet '%s': the zoom is 0 to %d".formatted(name, Area.Tile.MAX_ZOOM));
    }
  }

  @Override
  public void check(Field value, Schema schema) {
    FacetRequest.needFit(
        this, value, value.type() == FieldType.PLACE && value.hasColumn(), "squares");
  }

  @Override
  public FacetCounter counter(Field value) {
    return new CellCounts(this, value);
  }

  @Override
  public Query choice() {
    return chosen.isEmpty()
        ? new Query.Everything()
        : new Query.AnyOf(
            chosen.stream().<Query>map(tile -> new Query.Within(field, tile)).toList());
  }
}
