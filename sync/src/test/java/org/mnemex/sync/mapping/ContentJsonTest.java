package org.mnemex.sync.mapping;

import static org.assertj.core.api.Assertions.assertThat;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.mnemex.sync.source.RecordContent;
import tools.jackson.databind.json.JsonMapper;

/** An edition that is filled from stored records must come to the same hashes as the database. */
class ContentJsonTest {
  /** The kinds of values that hold no others. */
  private static final int[] DEEPEST = {0, 1, 2, 3, 4, 5, 8, 9};

  @Property(tries = 500)
  void whatWasStoredIsReadAndStoredAsItWas(@ForAll long seed) {
    Random random = new Random(seed);
    Map<String, Object> content = new LinkedHashMap<>();
    for (int i = 0; i < 8; i++) {
      content.put(text(random), value(random, 0));
    }
    String field = "f" + random.nextInt(9);
    Object computed = value(random, 0);
    byte[] stored = ContentJson.of(new RecordContent(content, Map.of(field, computed)));
    Map<String, Object> members = new LinkedHashMap<>(content);
    members.put("=" + field, computed);
    assertThat(new String(ContentJson.of(ContentJson.read(stored)), StandardCharsets.UTF_8))
        .isEqualTo(new String(stored, StandardCharsets.UTF_8))
        .isEqualTo(JsonMapper.shared().writeValueAsString(sorted(members)));
    assertThat(ContentJson.read(stored).columns()).doesNotContainKey("=" + field);
  }

  /** The same with the members of all maps in the order of their names. */
  private static Object sorted(Object value) {
    return switch (value) {
      case Map<?, ?> map -> {
        Map<String, Object> inOrder = new TreeMap<>();
        map.forEach((name, member) -> inOrder.put((String) name, sorted(member)));
        yield inOrder;
      }
      case List<?> list -> list.stream().map(ContentJsonTest::sorted).toList();
      default -> value;
    };
  }

  private static Object value(Random random, int depth) {
    return switch (depth < 2 ? random.nextInt(10) : DEEPEST[random.nextInt(DEEPEST.length)]) {
      case 8 -> new BigInteger(200, random);
      case 9 ->
          new BigDecimal(new BigInteger(1 + random.nextInt(90), random), random.nextInt(60) - 30);
      case 0 -> random.nextLong();
      case 1 -> (long) random.nextInt(100);
      case 2 -> random.nextBoolean();
      case 3 -> Double.longBitsToDouble(random.nextLong() & 0x7FEF_FFFF_FFFF_FFFFL);
      case 4 -> random.nextInt(1000) / 8.0;
      case 5 -> text(random);
      case 6 -> {
        List<Object> list = new ArrayList<>();
        for (int i = 0; i < random.nextInt(4); i++) {
          list.add(value(random, depth + 1));
        }
        yield list;
      }
      default -> {
        Map<String, Object> map = new LinkedHashMap<>();
        for (int i = 0; i < random.nextInt(4); i++) {
          map.put(text(random), value(random, depth + 1));
        }
        yield map;
      }
    };
  }

  private static String text(Random random) {
    StringBuilder out = new StringBuilder();
    for (int i = 0; i < random.nextInt(9); i++) {
      out.appendCodePoint(
          switch (random.nextInt(6)) {
            case 0 -> random.nextInt(0x20);
            case 1 -> '"';
            case 2 -> 0x1F33F;
            case 3 -> 0xE9;
            default -> 'a' + random.nextInt(26);
          });
    }
    return out.toString();
  }
}
