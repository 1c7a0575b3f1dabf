package org.mnemex.sync.mapping;

import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JsonGenerator;
import tools.jackson.core.type.TypeReference;
import tools.jackson.core.util.ByteArrayBuilder;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Stored records: content as JSON (RFC 8259) in UTF-8, with members in the order of their names as
 * in RFC 8785, so that the order of tables, columns and fields in a definition or a database makes
 * no other bytes. Writing the few types that records have by hand spares the search for a
 * serializer at every value.
 */
public final class ContentJson {
  private static final ObjectMapper JSON =
      JsonMapper.builder().enable(DeserializationFeature.USE_LONG_FOR_INTS).build();

  private static final TypeReference<LinkedHashMap<String, Object>> CONTENT =
      new TypeReference<>() {};

  private ContentJson() {}

  /** The bytes of some content. */
  static byte[] of(Map<String, Object> content) {
    try (ByteArrayBuilder bytes = new ByteArrayBuilder();
        JsonGenerator json = JSON.createGenerator(bytes)) {
      write(json, content);
      json.flush();
      return bytes.toByteArray();
    }
  }

  /** The content that bytes of {@link #of} stand for; of it, {@link #of} makes the same bytes. */
  public static Map<String, Object> read(byte[] json) {
    return JSON.readValue(json, CONTENT);
  }

  private static void write(JsonGenerator json, @Nullable Object value) {
    switch (value) {
      case String text -> json.writeString(text);
      case Long number -> json.writeNumber(number);
      case Boolean bool -> json.writeBoolean(bool);
      case Map<?, ?> members -> {
        json.writeStartObject();
        Object[] names = members.keySet().toArray();
        Arrays.sort(names);
        for (Object name : names) {
          json.writeName((String) name);
          write(json, members.get(name));
        }
        json.writeEndObject();
      }
      case List<?> elements -> {
        json.writeStartArray();
        elements.forEach(element -> write(json, element));
        json.writeEndArray();
      }
      case null -> json.writeNull();
      default -> json.writePOJO(value);
    }
  }
}
