package org.mnemex.engine.write;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.IntUnaryOperator;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.StoredCodec;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Schema;

/** Documents that were put but are in no segment yet, already analysed. Used by one thread. */
final class PendingDocuments implements SegmentContent {
  private final Schema schema;
  private final StoredCodec.Encoder encoder;
  private final List<byte[]> keys = new ArrayList<>();
  private final List<byte[]> stored = new ArrayList<>();
  private final Map<String, FieldBuffer> fields = new LinkedHashMap<>();
  private final List<FieldBuffer> buffers = new ArrayList<>();
  private final BitSet gone = new BitSet();
  private long[] hashes = new long[64];
  private long storedBytes;

  PendingDocuments(Schema schema) {
    this.schema = schema;
    this.encoder = new StoredCodec.Encoder(schema);
    for (Field field : schema.fields()) {
      FieldBuffer buffer = new FieldBuffer(field);
      buffers.add(buffer);
      fields.put(field.name(), buffer);
      buffer.children.forEach(child -> fields.put(child.field.name(), child));
    }
  }

  /**
   * Adds a document and returns its number.
   *
   * @throws IllegalArgumentException if a value does not fit its field; the document is not added
   */
  int add(Document document) {
    byte[] bytes;
    try {
      bytes = encoder.encode(document);
      for (FieldBuffer buffer : buffers) {
        buffer.add(document.fields().getOrDefault(buffer.field.name(), List.of()));
      }
    } catch (RuntimeException e) {
      for (Field field : schema.fields()) {
        of(field).truncate(keys.size());
      }
      throw new IllegalArgumentException("document '" + document.key() + "': " + e.getMessage(), e);
    }
    return keep(document.key(), document.hash(), bytes);
  }

  private int keep(String key, long hash, byte[] bytes) {
    int doc = keys.size();
    if (doc == hashes.length) {
      hashes = Arrays.copyOf(hashes, 2 * doc);
    }
    hashes[doc] = hash;
    keys.add(key.getBytes(StandardCharsets.UTF_8));
    stored.add(bytes);
    storedBytes += bytes.length + 80;
    return doc;
  }

  /** Forgets a document. */
  void remove(int doc) {
    gone.set(doc);
  }

  boolean isGone(int doc) {
    return gone.get(doc);
  }

  boolean isEmpty() {
    return gone.cardinality() == keys.size();
  }

  /** Estimate of the heap in use, and of what writing will take. */
  long bytes() {
    long bytes = storedBytes + 32L * keys.size();
    for (FieldBuffer buffer : buffers) {
      bytes += buffer.bytes();
    }
    return bytes;
  }

  /** How often something was too much for one document and was cut. */
  long cuts() {
    return schema.fields().stream().mapToLong(field -> of(field).cuts()).sum();
  }

  /** The documents that were replaced or removed since, null if none were. */
  @Nullable DocBits gone() {
    if (gone.isEmpty()) {
      return null;
    }
    DocBits bits = new DocBits(keys.size());
    gone.stream().forEach(bits::set);
    return bits;
  }

  @Override
  public int documents() {
    return keys.size();
  }

  @Override
  public KeyWalk keys() {
    Integer[] order = new Integer[keys.size()];
    Arrays.setAll(order, i -> i);
    Arrays.sort(order, (a, b) -> Arrays.compareUnsigned(keys.get(a), keys.get(b)));
    return new KeyWalk() {
      private int at = -1;

      @Override
      public boolean next() {
        return ++at < order.length;
      }

      @Override
      public byte[] key() {
        return keys.get(order[at]);
      }

      @Override
      public int doc() {
        return order[at];
      }
    };
  }

  @Override
  public long hash(int doc) {
    return hashes[doc];
  }

  @Override
  public void stored(StoredSink sink) throws IOException {
    for (byte[] bytes : stored) {
      sink.document(bytes);
    }
  }

  @Override
  public TermWalk terms(Field field) {
    return Objects.requireNonNull(of(field).terms).terms();
  }

  @Override
  public IntUnaryOperator lengthCodes(Field field) {
    return of(field)::lengthCode;
  }

  @Override
  public ValueWalk values(Field field) {
    return Objects.requireNonNull(of(field).values).values();
  }

  @Override
  public Rows column(Field field) {
    FieldBuffer buffer = of(field);
    return buffer.values != null
        ? buffer.values.ordinals()
        : Objects.requireNonNull(buffer.numbers);
  }

  @Override
  public Rows places(Field field, boolean latitude) {
    FieldBuffer buffer = of(field);
    return Objects.requireNonNull(latitude ? buffer.numbers : buffer.longitudes);
  }

  @Override
  public IntUnaryOperator childRows(Field group) {
    RowBuffer rows = Objects.requireNonNull(of(group).childRows);
    return doc -> (int) rows.value(doc, 0);
  }

  private FieldBuffer of(Field field) {
    return Objects.requireNonNull(fields.get(field.name()), field.name());
  }
}
