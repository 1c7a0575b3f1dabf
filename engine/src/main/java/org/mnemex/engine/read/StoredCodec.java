package org.mnemex.engine.read;

import java.lang.foreign.MemorySegment;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.GrowingBytes;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.Bytes;

/**
 * A stored document as bytes:
 *
 * <pre>
 * record: length varint, bytes
 * fields: count varint, then per field its name, number of values varint, values
 * value   text, exact, path        length varint, UTF-8
 *         numeric                  the field's number, zigzag varint
 *         place                    latitude and longitude in units of 1e-7 degrees, zigzag varint
 *         group                    fields as above, under their own names
 * name    length varint, UTF-8
 * </pre>
 *
 * <p>The record stands beside the fields so that their common text compresses away.
 */
public final class StoredCodec {
  private StoredCodec() {}

  /** Makes the bytes of documents, one after the other. Used by one thread. */
  public static final class Encoder {
    private final List<Stored> stored;
    private final GrowingBytes out = new GrowingBytes();

    /** Encodes what a schema says is stored. */
    public Encoder(Schema schema) {
      stored = Stored.of(schema.fields().stream().filter(Field::isStored).toList());
    }

    /** The bytes of a document. */
    public byte[] encode(Document document) {
      out.clear();
      out.varInt(document.record().length);
      out.put(document.record());
      writeFields(stored, document.fields(), out);
      return out.toArray();
    }
  }

  /**
   * A field with what is the same for every document.
   *
   * @param written the name as it is written
   */
  private record Stored(Field field, String name, byte[] written, List<Stored> children) {
    static List<Stored> of(Collection<Field> fields) {
      List<Stored> all = new ArrayList<>();
      GrowingBytes name = new GrowingBytes();
      for (Field field : fields) {
        name.clear();
        writeText(name, field.ownName());
        all.add(new Stored(field, field.ownName(), name.toArray(), of(field.children())));
      }
      return all;
    }
  }

  private static void writeFields(
      List<Stored> fields, Map<String, List<Object>> values, GrowingBytes out) {
    List<@Nullable List<Object>> found = new ArrayList<>(fields.size());
    int present = 0;
    for (Stored field : fields) {
      List<Object> all = values.get(field.name);
      found.add(all);
      present += all == null ? 0 : 1;
    }
    out.varInt(present);
    for (int i = 0; i < found.size(); i++) {
      List<Object> all = found.get(i);
      if (all != null) {
        Stored field = fields.get(i);
        out.put(field.written);
        out.varInt(all.size());
        for (Object value : all) {
          writeValue(field, value, out);
        }
      }
    }
  }

  private static void writeValue(Stored stored, Object value, GrowingBytes out) {
    Field field = stored.field;
    switch (field.type().storage()) {
      case TEXT, ORDINALS -> writeText(out, (String) value);
      case PLACES -> {
        Place place = (Place) value;
        out.varLong(zigzag(Place.units(place.latitude())));
        out.varLong(zigzag(Place.units(place.longitude())));
      }
      case ROWS -> writeFields(stored.children, ((GroupRow) value).fields(), out);
      case NUMBERS -> out.varLong(zigzag(field.toNumber(value)));
    }
  }

  static StoredDocument decode(byte[] bytes, Schema schema) {
    Bytes in = new Bytes(MemorySegment.ofArray(bytes));
    byte[] record = in.readBytes(in.readVarInt());
    return new StoredDocument(readFields(in, schema, ""), record);
  }

  /** Reads some fields of documents, one after the other. Used by one thread. */
  public static final class Decoder {
    private final Schema schema;
    private final List<Stored> stored;
    private final boolean[] wanted;
    private final int count;

    /**
     * A decoder for documents of a schema.
     *
     * @param names the fields to read
     */
    public Decoder(Schema schema, Set<String> names) {
      this.schema = schema;
      this.stored = Stored.of(schema.fields().stream().filter(Field::isStored).toList());
      this.wanted = new boolean[stored.size()];
      int found = 0;
      for (int i = 0; i < wanted.length; i++) {
        wanted[i] = names.contains(stored.get(i).name);
        found += wanted[i] ? 1 : 0;
      }
      this.count = found;
    }

    /** The values of the fields, by name; what has none is missing. */
    Map<String, List<Object>> decode(byte[] bytes) {
      Bytes in = new Bytes(MemorySegment.ofArray(bytes));
      skipText(in);
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      int place = -1;
      for (int n = in.readVarInt(); n > 0 && fields.size() < count; n--) {
        place = next(in, stored, place);
        Stored field = stored.get(place);
        if (wanted[place]) {
          fields.put(field.name, readValues(in, field.field, schema));
        } else {
          skipValues(in, field);
        }
      }
      return fields;
    }
  }

  /** The place of the field whose name stands next: usually soon after the one before. */
  private static int next(Bytes in, List<Stored> fields, int before) {
    for (int step = 1; step <= fields.size(); step++) {
      int place = (before + step) % fields.size();
      byte[] name = fields.get(place).written;
      if (in.position() + name.length <= in.length()
          && in.compare(in.position(), name.length, name) == 0) {
        in.seek(in.position() + name.length);
        return place;
      }
    }
    throw new IllegalArgumentException("field '" + readText(in) + "' is not stored");
  }

  /** The record alone. */
  static byte[] decodeRecord(byte[] bytes) {
    Bytes in = new Bytes(MemorySegment.ofArray(bytes));
    return in.readBytes(in.readVarInt());
  }

  private static Map<String, List<Object>> readFields(Bytes in, Schema schema, String group) {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (int n = in.readVarInt(); n > 0; n--) {
      String name = readText(in);
      fields.put(name, readValues(in, schema.field(group + name), schema));
    }
    return fields;
  }

  private static List<Object> readValues(Bytes in, Field field, Schema schema) {
    List<Object> values = new ArrayList<>();
    for (int left = in.readVarInt(); left > 0; left--) {
      values.add(
          switch (field.type().storage()) {
            case TEXT, ORDINALS -> readText(in);
            case PLACES ->
                new Place(
                    Place.degrees(unzigzag(in.readVarLong())),
                    Place.degrees(unzigzag(in.readVarLong())));
            case ROWS -> new GroupRow(readFields(in, schema, field.name() + "."));
            case NUMBERS -> field.fromNumber(unzigzag(in.readVarLong()));
          });
    }
    return values;
  }

  private static void skipValues(Bytes in, Stored field) {
    for (int left = in.readVarInt(); left > 0; left--) {
      switch (field.field.type().storage()) {
        case TEXT, ORDINALS -> skipText(in);
        case PLACES -> {
          in.readVarLong();
          in.readVarLong();
        }
        case ROWS -> {
          int place = -1;
          for (int n = in.readVarInt(); n > 0; n--) {
            place = next(in, field.children, place);
            skipValues(in, field.children.get(place));
          }
        }
        case NUMBERS -> in.readVarLong();
      }
    }
  }

  private static long zigzag(long value) {
    return value << 1 ^ value >> 63;
  }

  private static long unzigzag(long value) {
    return value >>> 1 ^ -(value & 1);
  }

  private static void writeText(GrowingBytes out, String text) {
    byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
    out.varInt(utf8.length);
    out.put(utf8);
  }

  private static void skipText(Bytes in) {
    int length = in.readVarInt();
    in.seek(in.position() + length);
  }

  private static String readText(Bytes in) {
    return new String(in.readBytes(in.readVarInt()), StandardCharsets.UTF_8);
  }
}
