package org.mnemex.engine.read;

import com.github.luben.zstd.Zstd;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/** One segment file, read through its schema. Deletions are not its business. */
public final class SegmentReader {
  private final SegmentFile file;
  private final Map<String, Integer> numbers = new LinkedHashMap<>();
  private final Schema schema;
  private final Dictionary keys;
  private final Bytes keyPlaces;
  private final Bytes hashes;
  private final Bytes stored;

  private SegmentReader(SegmentFile file, Schema schema) {
    this.file = file;
    this.schema = schema;
    Bytes fields = file.section(SegmentLayout.FIELDS, SegmentLayout.NO_FIELD);
    int count = fields.readVarInt();
    for (int i = 0; i < count; i++) {
      String name = new String(fields.readBytes(fields.readVarInt()), StandardCharsets.UTF_8);
      String signature = new String(fields.readBytes(fields.readVarInt()), StandardCharsets.UTF_8);
      if (!schema.has(name) || !schema.field(name).signature().equals(signature)) {
        throw file.damaged("it was written for another field '" + name + "'", null);
      }
      numbers.put(name, i);
    }
    keys = new Dictionary(file.section(SegmentLayout.KEYS, SegmentLayout.NO_FIELD));
    keyPlaces = file.section(SegmentLayout.KEY_PLACES, SegmentLayout.NO_FIELD);
    hashes = file.section(SegmentLayout.HASHES, SegmentLayout.NO_FIELD);
    stored = file.section(SegmentLayout.STORED, SegmentLayout.NO_FIELD);
  }

  /**
   * Opens a segment.
   *
   * @param verify whether to compare the whole file with its checksum
   */
  public static SegmentReader open(Path path, Schema schema, boolean verify) throws IOException {
    return new SegmentReader(SegmentFile.open(path, verify), schema);
  }

  public long id() {
    return file.id();
  }

  public int documents() {
    return file.documents();
  }

  public long bytes() {
    return file.size();
  }

  public Path path() {
    return file.path();
  }

  public Schema schema() {
    return schema;
  }

  /** The document of a key, deleted or not, or -1. */
  public int find(byte[] key) {
    int place = keys.find(key);
    return place < 0 ? -1 : keys.payload(place).readVarInt();
  }

  /** The key of a document. */
  public byte[] key(int doc) {
    return keys.get(keyPlaces.intAt(4L * doc));
  }

  /** The document whose key stands at a place in key order. */
  public int docByKeyPlace(int place) {
    return keys.payload(place).readVarInt();
  }

  public long hash(int doc) {
    return hashes.longAt(8L * doc);
  }

  /** The field's terms in order. */
  public Dictionary terms(Field field) {
    return new Dictionary(section(SegmentLayout.TERMS, field));
  }

  /** The postings of the term at a place of {@link #terms}. */
  public Postings postings(Field field, Dictionary terms, int place, boolean positions) {
    Bytes payload = terms.payload(place);
    int count = payload.readVarInt();
    long docsAt = payload.readVarLong();
    long placesAt = payload.readVarLong();
    Bytes places = positions ? section(SegmentLayout.POSITIONS, field).at(placesAt) : null;
    return new Postings(count, section(SegmentLayout.POSTINGS, field).at(docsAt), places);
  }

  /** In how many documents the term at a place stands, deleted ones included. */
  public int documentCount(Dictionary terms, int place) {
    return terms.payload(place).readVarInt();
  }

  /** Number of positions of a text field by document, 4 bytes each, behind a total of 8 bytes. */
  public Lengths lengths(Field field) {
    return new Lengths(section(SegmentLayout.LENGTHS, field));
  }

  /** A numeric field's values. */
  public NumberColumn numbers(Field field) {
    return new NumberColumn(section(SegmentLayout.NUMBERS, field), documents());
  }

  /** An exact field's values. */
  public OrdinalColumn ordinals(Field field) {
    return new OrdinalColumn(
        new Dictionary(section(SegmentLayout.VALUES, field)),
        section(SegmentLayout.ORDINALS, field),
        documents());
  }

  /** What was stored of a document. */
  public StoredDocument stored(int doc) {
    return StoredCodec.decode(storedBytes(doc), schema);
  }

  /** What was stored of a document, as it stands in its block. */
  public byte[] storedBytes(int doc) {
    return StoredBlocks.read(stored, doc);
  }

  private Bytes section(int kind, Field field) {
    @Nullable Integer number = numbers.get(field.name());
    if (number == null) {
      throw file.damaged("field '" + field.name() + "' is missing", null);
    }
    return file.section(kind, number);
  }

  /** Lengths of a text field: {@code total u64, documents with the field u32, length u32[]}. */
  public static final class Lengths {
    private final Bytes bytes;

    Lengths(Bytes bytes) {
      this.bytes = bytes;
    }

    /** Sum over all documents, deleted ones included. */
    public long total() {
      return bytes.longAt(0);
    }

    /** How many documents have the field, deleted ones included. */
    public int documents() {
      return bytes.intAt(8);
    }

    public int of(int doc) {
      return bytes.intAt(12 + 4L * doc);
    }
  }

  /** Values by document: {@code first u32[documents + 1], values u64[]}, in ascending order. */
  public static final class NumberColumn {
    private final Bytes bytes;
    private final long values;

    NumberColumn(Bytes bytes, int documents) {
      this.bytes = bytes;
      this.values = 4L * (documents + 1);
    }

    public int first(int doc) {
      return bytes.intAt(4L * doc);
    }

    public int end(int doc) {
      return bytes.intAt(4L * doc + 4);
    }

    public long value(int index) {
      return bytes.longAt(values + 8L * index);
    }
  }

  /** Places in the dictionary of values by document, in ascending order. */
  public static final class OrdinalColumn {
    private final Dictionary values;
    private final Bytes bytes;
    private final long ordinals;

    OrdinalColumn(Dictionary values, Bytes bytes, int documents) {
      this.values = values;
      this.bytes = bytes;
      this.ordinals = 4L * (documents + 1);
    }

    /** The distinct values, in order of their bytes. */
    public Dictionary values() {
      return values;
    }

    public int first(int doc) {
      return bytes.intAt(4L * doc);
    }

    public int end(int doc) {
      return bytes.intAt(4L * doc + 4);
    }

    public int ordinal(int index) {
      return bytes.intAt(ordinals + 4L * index);
    }
  }

  /**
   * Blocks of stored documents: {@code blocks u32, first document u32[blocks + 1], offset
   * u64[blocks + 1]}, then the blocks, each {@code raw length u32} and a Zstandard frame (RFC 8878)
   * of documents, each {@code length varint, bytes}.
   */
  static final class StoredBlocks {
    private StoredBlocks() {}

    static byte[] read(Bytes section, int doc) {
      int blocks = section.intAt(0);
      int low = 0;
      int high = blocks - 1;
      while (low < high) {
        int middle = (low + high + 1) >>> 1;
        if (section.intAt(4 + 4L * middle) <= doc) {
          low = middle;
        } else {
          high = middle - 1;
        }
      }
      long offsets = 4 + 4L * (blocks + 1);
      long data = offsets + 8L * (blocks + 1);
      long start = section.longAt(offsets + 8L * low);
      long end = section.longAt(offsets + 8L * (low + 1));
      Bytes block = section.at(data + start);
      int rawLength = section.intAt(data + start);
      block.seek(data + start + 4);
      byte[] raw = Zstd.decompress(block.readBytes((int) (end - start - 4)), rawLength);
      Bytes in = new Bytes(java.lang.foreign.MemorySegment.ofArray(raw));
      for (int skip = doc - section.intAt(4 + 4L * low); skip > 0; skip--) {
        int length = in.readVarInt();
        in.seek(in.position() + length);
      }
      return in.readBytes(in.readVarInt());
    }
  }
}
