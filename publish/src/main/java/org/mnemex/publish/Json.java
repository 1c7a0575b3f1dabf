package org.mnemex.publish;

import java.io.IOException;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** Objects of a store as JSON. What a newer version adds is passed over. */
final class Json {
  private static final JsonMapper MAPPER =
      JsonMapper.builder().disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES).build();

  /** What every form begins with. */
  private record Form(int format) {}

  private Json() {}

  static byte[] write(Object value) {
    return MAPPER.writeValueAsBytes(value);
  }

  /**
   * Reads an object.
   *
   * @param name of the object, for the message
   * @param format the newest form that this version knows
   * @throws IOException if it has another form, or a newer version has written it
   */
  static <T> T read(String name, byte[] content, Class<T> type, int format) throws IOException {
    try {
      int found = MAPPER.readValue(content, Form.class).format();
      if (found > format) {
        throw new IOException(
            "'%s' has form %d, of a newer version of Mnemex; this one reads up to %d. Update this machine first"
                .formatted(name, found, format));
      }
      return MAPPER.readValue(content, type);
    } catch (JacksonException e) {
      throw new IOException("'%s' cannot be read: %s".formatted(name, e.getOriginalMessage()), e);
    }
  }
}
