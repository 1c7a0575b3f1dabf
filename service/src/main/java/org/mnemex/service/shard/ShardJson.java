package org.mnemex.service.shard;

import com.fasterxml.jackson.annotation.JsonAutoDetect;
import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonProperty;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.PropertyAccessor;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import org.mnemex.engine.facet.FacetPart;
import org.mnemex.engine.facet.FacetRequest;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.Signal;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.shard.Fact;
import tools.jackson.databind.DefaultTyping;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.jsontype.BasicPolymorphicTypeValidator;
import tools.jackson.databind.jsontype.PolymorphicTypeValidator;

/**
 * How questions and answers are written for other nodes: as JSON, with the name of the kind where
 * something can be of several kinds. Only the kinds listed here are ever read.
 */
final class ShardJson {
  private static final List<Class<?>> KINDS =
      List.of(
          Query.class,
          Area.class,
          FacetRequest.class,
          FacetPart.class,
          Signal.class,
          Fact.class,
          ShardCall.class,
          ShardAnswer.class);

  /** The kinds of values that fields have. */
  private static final PolymorphicTypeValidator VALUES =
      BasicPolymorphicTypeValidator.builder()
          .allowIfSubType(Integer.class)
          .allowIfSubType(Long.class)
          .allowIfSubType(BigDecimal.class)
          .allowIfSubType(LocalDate.class)
          .allowIfSubType(Instant.class)
          .allowIfSubType(Place.class)
          .allowIfSubType(GroupRow.class)
          .build();

  private static final JsonMapper MAPPER = mapper();

  private ShardJson() {}

  @JsonTypeInfo(use = JsonTypeInfo.Id.SIMPLE_NAME, property = "kind")
  private interface OfSeveralKinds {}

  /** It is no record: what it is made of stands in its corners. */
  @JsonAutoDetect(fieldVisibility = JsonAutoDetect.Visibility.NONE)
  @SuppressWarnings("unused")
  private abstract static class PolygonByCorners {
    @JsonProperty private List<Place> corners = List.of();

    @JsonCreator
    PolygonByCorners(@JsonProperty("corners") List<Place> corners) {}
  }

  private static JsonMapper mapper() {
    JsonMapper.Builder builder =
        JsonMapper.builder()
            .changeDefaultVisibility(
                visible ->
                    visible
                        .withVisibility(PropertyAccessor.GETTER, JsonAutoDetect.Visibility.NONE)
                        .withVisibility(PropertyAccessor.IS_GETTER, JsonAutoDetect.Visibility.NONE)
                        .withVisibility(PropertyAccessor.FIELD, JsonAutoDetect.Visibility.ANY))
            .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .activateDefaultTyping(VALUES, DefaultTyping.JAVA_LANG_OBJECT)
            .addMixIn(Area.Polygon.class, PolygonByCorners.class);
    for (Class<?> kind : KINDS) {
      builder.addMixIn(kind, OfSeveralKinds.class).registerSubtypes(kindsOf(kind));
    }
    return builder.build();
  }

  private static Class<?>[] kindsOf(Class<?> sealed) {
    List<Class<?>> all = new ArrayList<>();
    for (Class<?> kind : sealed.getPermittedSubclasses()) {
      all.addAll(kind.isSealed() ? List.of(kindsOf(kind)) : List.of(kind));
    }
    return all.toArray(Class<?>[]::new);
  }

  static byte[] written(Object value) {
    return MAPPER.writeValueAsBytes(value);
  }

  /**
   * @throws tools.jackson.core.JacksonException if it is nothing of that type
   */
  static <T> T read(byte[] json, Class<T> type) {
    return MAPPER.readValue(json, type);
  }
}
