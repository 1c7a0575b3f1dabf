package org.mnemex.service.definition;

import com.fasterxml.jackson.annotation.JsonProperty;
import io.swagger.v3.oas.annotations.media.Schema;
import java.util.List;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.schema.Field;

/**
 * How a facet counts. Each kind is one class, from its keys in the definition to what it asks of
 * the engine, and one entry in {@link FacetReader}.
 */
public sealed interface FacetKind
    permits ValueKind, RangeKind, BucketKind, SquareKind, StatisticsKind {
  /** Its name in descriptions of endpoints. */
  @JsonProperty
  @Schema(description = "How the facet counts.")
  String kind();

  /** The key in the definition that it comes from, for messages. */
  String key();

  /**
   * The request to the engine.
   *
   * @param chosen what is chosen, as it was written
   * @param search only values with a word that begins with this; empty: all
   * @throws IllegalArgumentException with a sentence, if the field cannot be counted so, or a
   *     chosen value is not one of the field
   * @throws org.mnemex.engine.error.QueryRefusedException if a bucket is invalid
   */
  FacetRequest request(
      EndpointDefinition.Facet defined, Field field, List<String> chosen, String search);

  /** Whether another facet can be split by its counts. */
  default boolean hasCounts() {
    return true;
  }
}
