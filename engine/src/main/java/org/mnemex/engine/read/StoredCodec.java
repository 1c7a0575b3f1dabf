package org.mnemex.engine.read;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.mnemex.engine.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;

/**
 * A stored document as bytes: {@code record length u32, record, field count u16}, then per field
 * {@code name, value count u32, values}; numbers are 8 bytes, texts a u32 length and UTF-8. The
 * record stands beside the fields so that their common text compresses away.
 */
public final class StoredCodec {
  private StoredCodec() {}

  /** The bytes of what {@code schema} says is stored of {@code document}. */
  public static byte[] encode(Document document, Schema schema) {
    try {
      ByteArrayOutputStream bytes = new ByteArrayOutputStream();
      DataOutputStream out = new DataOutputStream(bytes);
      out.writeInt(document.record().length);
      out.write(document.record());
      List<Field> stored =
          schema.fields().stream()
              .filter(field -> field.isStored() && document.fields().containsKey(field.name()))
              .toList();
      out.writeShort(stored.size());
      for (Field field : stored) {
        writeText(out, field.name());
        List<Object> values = document.fields().getOrDefault(field.name(), List.of());
        out.writeInt(values.size());
        for (Object value : values) {
          if (field.type().isNumeric()) {
            out.writeLong(field.type().toNumber(value));
          } else {
            writeText(out, (String) value);
          }
        }
      }
      return bytes.toByteArray();
    } catch (IOException e) {
      throw new UncheckedIOException("writing to memory cannot fail", e);
    }
  }

  static StoredDocument decode(byte[] bytes, Schema schema) {
    try {
      DataInputStream in = new DataInputStream(new ByteArrayInputStream(bytes));
      byte[] record = in.readNBytes(in.readInt());
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      for (int n = in.readUnsignedShort(); n > 0; n--) {
        String name = readText(in);
        FieldType type = schema.field(name).type();
        int count = in.readInt();
        List<Object> values = new ArrayList<>();
        for (int i = 0; i < count; i++) {
          values.add(type.isNumeric() ? type.fromNumber(in.readLong()) : readText(in));
        }
        fields.put(name, values);
      }
      return new StoredDocument(fields, record);
    } catch (IOException e) {
      throw new UncheckedIOException("a stored document ends too early", e);
    }
  }

  private static void writeText(DataOutputStream out, String text) throws IOException {
    byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
    out.writeInt(utf8.length);
    out.write(utf8);
  }

  private static String readText(DataInputStream in) throws IOException {
    return new String(in.readNBytes(in.readInt()), StandardCharsets.UTF_8);
  }
}
