package org.mnemex.sync.mapping;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.source.RecordContent;
import org.mnemex.sync.source.Row;
import tools.jackson.core.JsonGenerator;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.core.util.ByteArrayBuilder;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * Stored records: content as JSON (RFC 8259) in UTF-8, with members in the order of their names as
 * in RFC 8785, so that the order of tables, columns and fields does not matter. The result of a
 * field's expression is a member {@code =field}. The few types of records are written by hand,
 * which saves looking up a serializer for every value.
 */
public final class ContentJson {
  private static final ObjectMapper JSON = JsonMapper.shared();

  private ContentJson() {}

  /** Prefix of members with results of expressions. */
  private static final String COMPUTED = "=";

  /** The bytes of some content. */
  static byte[] of(RecordContent content) {
    Map<String, Object> members = content.columns();
    if (!content.computed().isEmpty()) {
      members = new HashMap<>(members);
      for (Map.Entry<String, Object> one : content.computed().entrySet()) {
        members.put(COMPUTED + one.getKey(), one.getValue());
      }
    }
    try (ByteArrayBuilder bytes = new ByteArrayBuilder();
        JsonGenerator json = JSON.createGenerator(bytes)) {
      write(json, members);
      json.flush();
      return bytes.toByteArray();
    }
  }

  /** The content of bytes written by {@link #of}; writing it again gives the same bytes. */
  public static RecordContent read(byte[] json) {
    Map<String, Object> members = new LinkedHashMap<>();
    try (JsonParser parser = JSON.createParser(json)) {
      parser.nextToken();
      readMembers(parser, members);
    }
    RecordContent content = RecordContent.empty();
    members.forEach(
        (name, value) -> {
          if (name.startsWith(COMPUTED)) {
            content.computed().put(name.substring(COMPUTED.length()), value);
          } else {
            content.columns().put(name, value);
          }
        });
    return content;
  }

  private static void readMembers(JsonParser parser, Map<String, Object> content) {
    while (parser.nextToken() == JsonToken.PROPERTY_NAME) {
      String name = parser.currentName();
      parser.nextToken();
      Object value = readValue(parser);
      if (value != null) {
        content.put(name, value);
      }
    }
  }

  /** The parser limits nesting. */
  private static @Nullable Object readValue(JsonParser parser) {
    return switch (parser.currentToken()) {
      case VALUE_STRING -> parser.getString();
      case VALUE_TRUE -> true;
      case VALUE_FALSE -> false;
      // Numbers of any size with all digits, as pushed.
      case VALUE_NUMBER_INT ->
          switch (parser.getNumberType()) {
            case INT, LONG -> (Object) parser.getLongValue();
            default -> parser.getBigIntegerValue();
          };
      case VALUE_NUMBER_FLOAT -> {
        double number = parser.getDoubleValue();
        yield String.valueOf(number).equals(parser.getString())
            ? (Object) number
            : parser.getDecimalValue();
      }
      case START_OBJECT -> {
        Map<String, Object> members = new LinkedHashMap<>();
        readMembers(parser, members);
        yield members;
      }
      case START_ARRAY -> {
        List<Object> elements = new ArrayList<>();
        while (parser.nextToken() != JsonToken.END_ARRAY) {
          Object element = readValue(parser);
          if (element != null) {
            elements.add(element);
          }
        }
        yield elements;
      }
      default -> null;
    };
  }

  private static void write(JsonGenerator json, @Nullable Object value) {
    switch (value) {
      case String text -> json.writeString(text);
      case Long number -> json.writeNumber(number);
      case Boolean bool -> json.writeBoolean(bool);
      case Row row -> {
        json.writeStartObject();
        row.forEach(
            (name, member) -> {
              json.writeName(name);
              write(json, member);
            });
        json.writeEndObject();
      }
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
