package org.mnemex.service.definition;

import java.util.List;
import org.mnemex.engine.facet.CellFacet;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.schema.Field;

/**
 * Counts places by square of a web map.
 *
 * @param cells zoom of the squares
 * @param limit number of squares shown
 */
public record SquareKind(int cells, int limit) implements FacetKind {
  static SquareKind read(YamlMap facet) {
    return new SquareKind(
        facet.integerOr("cells", 0, 0, Area.Tile.MAX_ZOOM), FacetReader.limit(facet));
  }

  @Override
  public String key() {
    return "cells";
  }

  @Override
  public String kind() {
    return "squares";
  }

  @Override
  public FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search) {
    return new CellFacet(
        defined.name(),
        defined.field(),
        cells,
        chosen.stream().map(Area.Tile::parse).toList(),
        limit);
  }
}
