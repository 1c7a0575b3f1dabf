package org.mnemex.service.shard;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.lang.reflect.Constructor;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.mnemex.engine.query.Area;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import tools.jackson.core.JacksonException;

/**
 * Whatever nodes ask and answer one another is the same after it was written and read: every kind
 * of call, answer, query, facet and value, made of what its records are made of.
 */
class ShardJsonTest {
  /** How deep things are that contain their like. */
  private static final int DEEP = 6;

  private static final List<Object> VALUES =
      List.of(
          "fern",
          7L,
          new BigDecimal("1.50"),
          LocalDate.parse("2026-03-01"),
          Instant.parse("2026-03-01T12:00:00.000001Z"),
          true,
          new Place(51.5, -0.25),
          new GroupRow(Map.of("by", List.of("Ann", 3L))));

  static Stream<Class<?>> calls() {
    return Arrays.stream(ShardCall.class.getPermittedSubclasses());
  }

  static Stream<Class<?>> answers() {
    return Arrays.stream(ShardAnswer.class.getPermittedSubclasses());
  }

  @ParameterizedTest
  @MethodSource("calls")
  void callsArriveAsTheyWere(Class<?> kind) throws Exception {
    for (Object call : examples(kind, 0)) {
      ShardQuestion question =
          new ShardQuestion(
              List.of("plants/1"), List.of(0, 2), List.of("a", "b"), (ShardCall<?>) call);
      assertThat(ShardJson.read(ShardJson.written(question), ShardQuestion.class))
          .isEqualTo(question);
    }
  }

  @ParameterizedTest
  @MethodSource("answers")
  void answersArriveAsTheyWere(Class<?> kind) throws Exception {
    for (Object answer : examples(kind, 0)) {
      assertThat(ShardJson.read(ShardJson.written(answer), ShardAnswer.class)).isEqualTo(answer);
    }
  }

  @Test
  void nothingElseIsRead() {
    for (String wrong :
        List.of(
            "{\"kind\":\"java.io.File\"}",
            "{\"kind\":\"Count\",\"documents\":1,\"more\":1}",
            """
            {"kind": "Hits", "hits": [{"key": "k", "score": 1, "highlights": {}, "rows": {},
              "fields": {"f": [["java.net.URL", "http://127.0.0.1"]]}}]}
            """,
            "7")) {
      assertThatThrownBy(
              () -> ShardJson.read(wrong.getBytes(StandardCharsets.UTF_8), ShardAnswer.class))
          .as(wrong)
          .isInstanceOf(JacksonException.class);
    }
  }

  /**
   * Examples of a type: if it is of several kinds, of each of them; if it is a record, with every
   * example of each of its components.
   */
  private static List<Object> examples(Class<?> type, int depth) throws Exception {
    if (type.isInterface() && type.isSealed()) {
      List<Object> all = new ArrayList<>();
      for (Class<?> kind : type.getPermittedSubclasses()) {
        all.addAll(examples(kind, depth + 1));
        if (depth >= DEEP) {
          return all;
        }
      }
      return all;
    }
    if (type == Area.Polygon.class) {
      return List.of(new Area.Polygon(List.of(new Place(0, 0), new Place(0, 5), new Place(5, 0))));
    }
    return type.isRecord() ? records(type, depth) : List.of(plain(type));
  }

  /** As many as the component with the most examples has. */
  private static List<Object> records(Class<?> type, int depth) throws Exception {
    RecordComponent[] components = type.getRecordComponents();
    List<List<Object>> each = new ArrayList<>();
    int most = 1;
    for (RecordComponent component : components) {
      List<Object> some = of(component.getGenericType(), depth + 1);
      each.add(some);
      most = Math.max(most, some.size());
    }
    Constructor<?> constructor =
        type.getDeclaredConstructor(
            Arrays.stream(components).map(RecordComponent::getType).toArray(Class<?>[]::new));
    constructor.setAccessible(true);
    List<Object> all = new ArrayList<>();
    for (int i = 0; i < most; i++) {
      int at = i;
      all.add(
          constructor.newInstance(each.stream().map(some -> some.get(at % some.size())).toArray()));
    }
    return all;
  }

  private static List<Object> of(Type type, int depth) throws Exception {
    if (!(type instanceof ParameterizedType of)) {
      return type == Object.class ? VALUES : examples((Class<?>) type, depth);
    }
    Type[] inner = of.getActualTypeArguments();
    if (of.getRawType() == Map.class) {
      Object key = of(inner[0], depth).getFirst();
      return of(inner[1], depth).stream().<Object>map(value -> Map.of(key, value)).toList();
    }
    List<Object> all = depth > DEEP ? List.of() : of(inner[0], depth);
    return List.of(of.getRawType() == Set.class ? Set.copyOf(all) : all);
  }

  private static Object plain(Class<?> type) {
    if (type.isEnum()) {
      return type.getEnumConstants()[type.getEnumConstants().length - 1];
    }
    return switch (type.getSimpleName()) {
      case "String" -> "fern";
      case "int", "Integer" -> 2;
      case "long", "Long" -> 5_000_000_000L;
      case "double", "Double" -> 0.1;
      case "float" -> 0.3f;
      case "boolean" -> true;
      case "BigInteger" -> new BigInteger("123456789012345678901234567890");
      case "BigDecimal", "Number" -> new BigDecimal("0.50");
      case "Instant" -> Instant.parse("2026-03-01T12:00:00Z");
      case "ZoneId" -> ZoneId.of("Pacific/Chatham");
      default -> throw new IllegalArgumentException("no example of " + type);
    };
  }
}
