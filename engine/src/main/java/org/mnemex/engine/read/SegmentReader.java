package org.mnemex.engine.read;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.KeyFilter;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.Manifest;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/** One segment file, read through its schema. Deletions are not its business. */
public final class SegmentReader {
  private final Object identity = new Object();
  private final SegmentFile file;
  private final Map<String, Integer> numbers = new LinkedHashMap<>();
  private final Map<String, Object> derived = new HashMap<>();
  private final Schema schema;
  private final Dictionary keys;
  private final Bytes keyFilter;
  private final PackedNumbers keyPlaces;
  private final StoredBlocks stored;
  private final ShownDocuments shown = new ShownDocuments();
  private final DeletedSums deletedSums;

  /** Kept once it was verified, as an audit asks for every document's. */
  private volatile @Nullable Bytes hashes;

  private SegmentReader(SegmentFile file, Schema schema) {
    this.file = file;
    this.deletedSums = new DeletedSums(file.documents());
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
    keyFilter = file.section(SegmentLayout.KEY_FILTER, SegmentLayout.NO_FIELD);
    keyPlaces = new PackedNumbers(file.section(SegmentLayout.KEY_PLACES, SegmentLayout.NO_FIELD));
    stored =
        new StoredBlocks(
            file,
            file.section(SegmentLayout.STORED_BLOCKS, SegmentLayout.NO_FIELD),
            file.unverified(SegmentLayout.STORED, SegmentLayout.NO_FIELD));
  }

  /**
   * Opens a segment. A section is compared with its checksum when it is first used, stored
   * documents block by block.
   */
  public static SegmentReader open(Path path, Schema schema) throws IOException {
    return new SegmentReader(SegmentFile.open(path), schema);
  }

  /**
   * Opens a segment that a manifest names.
   *
   * @throws DamagedFileException if the file is not what the manifest says
   */
  public static SegmentReader open(Path path, Manifest.SegmentEntry entry, Schema schema)
      throws IOException {
    SegmentReader reader = open(path, schema);
    if (reader.id() != entry.id()
        || reader.documents() != entry.documents()
        || reader.bytes() != entry.bytes()) {
      throw new DamagedFileException(
          path,
          "the manifest says segment %d with %d documents in %d bytes, the file %d with %d in %d"
              .formatted(
                  entry.id(),
                  entry.documents(),
                  entry.bytes(),
                  reader.id(),
                  reader.documents(),
                  reader.bytes()),
          null);
    }
    return reader;
  }

  /** Opens a segment that was just written and needs no verification yet. */
  public static SegmentReader openWritten(Path path, Schema schema) throws IOException {
    SegmentFile file = SegmentFile.open(path);
    file.trust();
    return new SegmentReader(file, schema);
  }

  /**
   * Compares the whole file with its checksums.
   *
   * @throws org.mnemex.engine.error.DamagedFileException if a byte has changed
   */
  public void verify() {
    file.verify();
  }

  public long id() {
    return file.id();
  }

  /** Stands for this reader alone, where something is remembered that must not keep it open. */
  public Object identity() {
    return identity;
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

  /** The file, to be measured. */
  public SegmentFile file() {
    return file;
  }

  /** The document of a key, deleted or not, or -1. */
  public int find(byte[] key) {
    return mayHave(KeyFilter.hash(key)) ? (int) keys.lookup().number(key) : -1;
  }

  /**
   * Whether there may be a document of a key.
   *
   * @param hash that of the key by {@link KeyFilter}
   */
  public boolean mayHave(long hash) {
    return KeyFilter.mayContain(keyFilter, hash);
  }

  /** The keys in order, each with its document as the only number. */
  public Dictionary keys() {
    return keys;
  }

  /** The key of a document. */
  public byte[] key(int doc) {
    return keys.get(keyPlace(doc));
  }

  /** The place of a document's key among the segment's keys in order. */
  public int keyPlace(int doc) {
    return (int) keyPlaces.get(doc);
  }

  public long hash(int doc) {
    Bytes known = hashes;
    if (known == null) {
      known = file.section(SegmentLayout.HASHES, SegmentLayout.NO_FIELD);
      hashes = known;
    }
    return known.longAt(8L * doc);
  }

  /** The field's terms in order; see {@link #postings}. */
  public Dictionary terms(Field field) {
    return new Dictionary(section(SegmentLayout.TERMS, field));
  }

  /**
   * The postings of the term where {@code term} stands.
   *
   * @param positions whether positions will be asked for
   */
  public Postings postings(Field field, Dictionary.Walk term, boolean positions) {
    boolean text = field.type() == FieldType.TEXT;
    Bytes places = text && positions ? section(SegmentLayout.POSITIONS, field).at(0) : null;
    int count = (int) term.number(0);
    long only = term.number(3);
    return only > 0
        ? new Postings((int) (only - 1), text, places, term.number(2))
        : new Postings(
            count,
            section(SegmentLayout.POSTINGS, field),
            term.number(1),
            text,
            places,
            term.number(2));
  }

  /** What is known of the documents that searches saw deleted. */
  DeletedSums deletedSums() {
    return deletedSums;
  }

  /** Lengths of a text field. */
  public Lengths lengths(Field field) {
    return new Lengths(section(SegmentLayout.LENGTHS, field));
  }

  /**
   * The least length code of each run of so many documents, for bounds; 1 where none of them has
   * the text field.
   */
  public int[] shortest(Field field, int run) {
    return derived(
        "shortest of " + run + ' ' + field.name(),
        () -> {
          Lengths lengths = lengths(field);
          int[] shortest = new int[(documents() + run - 1) / run];
          for (int doc = 0; doc < documents(); doc++) {
            int code = lengths.code(doc);
            int known = shortest[doc / run];
            if (code > 0 && (known == 0 || code < known)) {
              shortest[doc / run] = code;
            }
          }
          Arrays.setAll(shortest, i -> Math.max(1, shortest[i]));
          return shortest;
        });
  }

  /** A numeric field's values, or an exact field's places in {@link #values}. */
  public Column column(Field field) {
    Bytes header = section(SegmentLayout.COLUMN, field);
    return new Column(
        header,
        Column.hasFirsts(header) ? section(SegmentLayout.COLUMN_FIRSTS, field) : null,
        section(SegmentLayout.COLUMN_VALUES, field));
  }

  /** An exact field's distinct values, in order of their bytes. */
  public Dictionary values(Field field) {
    return new Dictionary(section(SegmentLayout.VALUES, field));
  }

  /** For each place of {@link #values} the rank of its folded form; only of folded fields. */
  public PackedNumbers foldedRanks(Field field) {
    return new PackedNumbers(section(SegmentLayout.FOLDED_RANKS, field));
  }

  /**
   * A value computed once from the segment and cached while it is open.
   *
   * @param what its name, unique to the computation
   */
  @SuppressWarnings("unchecked")
  public <T> T derived(String what, Supplier<T> compute) {
    synchronized (derived) {
      return (T) derived.computeIfAbsent(what, name -> compute.get());
    }
  }

  /** The places of a place field. */
  public PlaceColumn places(Field field) {
    Bytes header = section(SegmentLayout.COLUMN, field);
    return new PlaceColumn(
        new Column(header, null, section(SegmentLayout.LATITUDES, field)),
        new PackedNumbers(section(SegmentLayout.LATITUDES, field)),
        new PackedNumbers(section(SegmentLayout.LONGITUDES, field)),
        new PackedNumbers(section(SegmentLayout.CELLS, field)));
  }

  /** For each document the index of its first child row, and one more at the end. */
  public PackedNumbers groupFirsts(Field group) {
    return new PackedNumbers(section(SegmentLayout.GROUP_FIRSTS, group));
  }

  /** The stored part of a document. */
  public StoredDocument stored(int doc) {
    return StoredCodec.decode(stored.read(doc), schema);
  }

  /** Some of the stored fields of a document, which will perhaps be asked for again. */
  public Map<String, List<Object>> stored(int doc, StoredCodec.Decoder decoder) {
    return decoder.decode(shown.get(doc, stored::read));
  }

  /** The blocks of stored documents. */
  public StoredBlocks storedBlocks() {
    return stored;
  }

  private Bytes section(int kind, Field field) {
    @Nullable Integer number = numbers.get(field.name());
    if (number == null) {
      throw file.damaged("field '" + field.name() + "' is missing", null);
    }
    return file.section(kind, number);
  }

  /**
   * Lengths of a text field: {@code total u64, documents with the field u32}, then a {@link
   * LengthCode} per document.
   */
  public static final class Lengths {
    private static final int HEADER_BYTES = 12;

    private final Bytes bytes;

    Lengths(Bytes bytes) {
      this.bytes = bytes;
    }

    /** How many documents or rows have a code. */
    public int rows() {
      return (int) bytes.length() - HEADER_BYTES;
    }

    /** The length code of a document, 0 if it has not the field. */
    public int code(int doc) {
      return bytes.byteAt((long) HEADER_BYTES + doc);
    }

    /** The length that a document's code stands for. */
    public int of(int doc) {
      return LengthCode.length(code(doc));
    }
  }

  /**
   * Places by document.
   *
   * @param present which rows have one
   * @param latitudes by row, in units of 1e-7 degrees
   * @param longitudes by row
   * @param cells cell number × 2^31 + row, in order; see {@link Cells}
   */
  public record PlaceColumn(
      Column present, PackedNumbers latitudes, PackedNumbers longitudes, PackedNumbers cells) {}
}
