package org.mnemex.engine.write;

import com.github.luben.zstd.Zstd;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.stream.IntStream;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/** Writes one segment file from its content, section by section. */
final class SegmentWriter {
  private static final int STORED_BLOCK_BYTES = 16 * 1024;
  private static final int COMPRESSION_LEVEL = 1;

  private final Schema schema;
  private final SegmentContent content;
  private final SegmentFile.Writer file;

  private SegmentWriter(Schema schema, SegmentContent content, SegmentFile.Writer file) {
    this.schema = schema;
    this.content = content;
    this.file = file;
  }

  /**
   * Writes {@code content} to {@code path}; the file is complete but not yet forced to the disk.
   */
  static void write(Path path, long id, Schema schema, SegmentContent content) throws IOException {
    try (SegmentFile.Writer file = new SegmentFile.Writer(path, id, content.documents())) {
      new SegmentWriter(schema, content, file).writeSections();
      file.finish();
    }
  }

  private void writeSections() throws IOException {
    writeFields();
    writeKeys();
    writeHashes();
    writeStored();
    int number = 0;
    for (Field field : schema.fields()) {
      if (field.hasTerms()) {
        writeTerms(field, number);
      }
      if (field.type() == FieldType.TEXT && field.hasTerms()) {
        writeLengths(field, number);
      }
      if (field.hasColumn() && field.type().isNumeric()) {
        writeNumbers(field, number);
      }
      if (field.hasColumn() && field.type() == FieldType.EXACT) {
        writeOrdinals(field, number);
      }
      number++;
    }
  }

  private void writeFields() throws IOException {
    FileOut out = file.begin(SegmentLayout.FIELDS, SegmentLayout.NO_FIELD);
    out.writeVarInt(schema.fields().size());
    for (Field field : schema.fields()) {
      for (String text : List.of(field.name(), field.signature())) {
        byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
        out.writeVarInt(utf8.length);
        out.writeBytes(utf8);
      }
    }
    file.end();
  }

  private void writeKeys() throws IOException {
    byte[][] keys = new byte[content.documents()][];
    Arrays.setAll(keys, content::key);
    int[] byKey =
        IntStream.range(0, keys.length)
            .boxed()
            .sorted(Comparator.comparing(doc -> keys[doc], Arrays::compareUnsigned))
            .mapToInt(Integer::intValue)
            .toArray();
    DictionaryWriter dictionary = new DictionaryWriter();
    int[] placeByDoc = new int[keys.length];
    for (int place = 0; place < byKey.length; place++) {
      int doc = byKey[place];
      placeByDoc[doc] = place;
      dictionary.add(keys[doc]).varInt(doc);
    }
    dictionary.writeTo(file.begin(SegmentLayout.KEYS, SegmentLayout.NO_FIELD));
    file.end();
    FileOut out = file.begin(SegmentLayout.KEY_PLACES, SegmentLayout.NO_FIELD);
    for (int place : placeByDoc) {
      out.writeInt(place);
    }
    file.end();
  }

  private void writeHashes() throws IOException {
    FileOut out = file.begin(SegmentLayout.HASHES, SegmentLayout.NO_FIELD);
    for (int doc = 0; doc < content.documents(); doc++) {
      out.writeLong(content.hash(doc));
    }
    file.end();
  }

  private void writeStored() throws IOException {
    List<Integer> firstDocs = new ArrayList<>();
    List<Long> offsets = new ArrayList<>();
    GrowingBytes data = new GrowingBytes();
    GrowingBytes block = new GrowingBytes();
    for (int doc = 0; doc < content.documents(); doc++) {
      if (block.length() == 0) {
        firstDocs.add(doc);
        offsets.add((long) data.length());
      }
      byte[] stored = content.stored(doc);
      block.varInt(stored.length);
      block.put(stored);
      if (block.length() >= STORED_BLOCK_BYTES || doc == content.documents() - 1) {
        data.put(littleEndian(block.length()));
        data.put(Zstd.compress(block.toArray(), COMPRESSION_LEVEL));
        block.clear();
      }
    }
    firstDocs.add(content.documents());
    offsets.add((long) data.length());
    FileOut out = file.begin(SegmentLayout.STORED, SegmentLayout.NO_FIELD);
    out.writeInt(firstDocs.size() - 1);
    for (int doc : firstDocs) {
      out.writeInt(doc);
    }
    for (long offset : offsets) {
      out.writeLong(offset);
    }
    data.writeTo(out);
    file.end();
  }

  private static byte[] littleEndian(int value) {
    return new byte[] {
      (byte) value, (byte) (value >>> 8), (byte) (value >>> 16), (byte) (value >>> 24)
    };
  }

  private void writeTerms(Field field, int number) throws IOException {
    boolean positions = field.type() == FieldType.TEXT;
    DictionaryWriter dictionary = new DictionaryWriter();
    PostingEncoder encoder = new PostingEncoder(positions);
    FileOut out = file.begin(SegmentLayout.POSTINGS, number);
    long start = out.position();
    SegmentContent.TermCursor terms = content.terms(field);
    while (terms.next()) {
      encoder.startTerm();
      long placesAt = encoder.places.length();
      terms.postings(encoder);
      if (encoder.count == 0) {
        continue;
      }
      GrowingBytes payload = dictionary.add(terms.term());
      payload.varInt(encoder.count);
      payload.varLong(out.position() - start);
      payload.varLong(placesAt);
      encoder.docs.writeTo(out);
    }
    file.end();
    dictionary.writeTo(file.begin(SegmentLayout.TERMS, number));
    file.end();
    if (positions) {
      encoder.places.writeTo(file.begin(SegmentLayout.POSITIONS, number));
      file.end();
    }
  }

  private void writeLengths(Field field, int number) throws IOException {
    long total = 0;
    int having = 0;
    for (int doc = 0; doc < content.documents(); doc++) {
      int length = content.length(field, doc);
      total += length;
      having += length > 0 ? 1 : 0;
    }
    FileOut out = file.begin(SegmentLayout.LENGTHS, number);
    out.writeLong(total);
    out.writeInt(having);
    for (int doc = 0; doc < content.documents(); doc++) {
      out.writeInt(content.length(field, doc));
    }
    file.end();
  }

  private void writeNumbers(Field field, int number) throws IOException {
    FileOut out = file.begin(SegmentLayout.NUMBERS, number);
    int first = 0;
    for (int doc = 0; doc < content.documents(); doc++) {
      out.writeInt(first);
      first += content.numbers(field, doc).length;
    }
    out.writeInt(first);
    for (int doc = 0; doc < content.documents(); doc++) {
      for (long value : content.numbers(field, doc)) {
        out.writeLong(value);
      }
    }
    file.end();
  }

  private void writeOrdinals(Field field, int number) throws IOException {
    DictionaryWriter dictionary = new DictionaryWriter();
    content.values(field).forEach(dictionary::add);
    dictionary.writeTo(file.begin(SegmentLayout.VALUES, number));
    file.end();
    FileOut out = file.begin(SegmentLayout.ORDINALS, number);
    int first = 0;
    for (int doc = 0; doc < content.documents(); doc++) {
      out.writeInt(first);
      first += content.ordinals(field, doc).length;
    }
    out.writeInt(first);
    for (int doc = 0; doc < content.documents(); doc++) {
      for (int ordinal : content.ordinals(field, doc)) {
        out.writeInt(ordinal);
      }
    }
    file.end();
  }

  /** Encodes the documents of one term; positions of all terms go behind one another. */
  private static final class PostingEncoder implements SegmentContent.PostingSink {
    final GrowingBytes docs = new GrowingBytes();
    final GrowingBytes places = new GrowingBytes();
    private final boolean positions;
    int count;
    private int previousDoc;

    PostingEncoder(boolean positions) {
      this.positions = positions;
    }

    void startTerm() {
      docs.clear();
      count = 0;
      previousDoc = 0;
    }

    @Override
    public void accept(int doc, int freq, int[] at) {
      int delta = doc - previousDoc;
      if (freq == 1) {
        docs.varInt(delta << 1 | 1);
      } else {
        docs.varInt(delta << 1);
        docs.varInt(freq);
      }
      if (positions) {
        int previous = 0;
        for (int i = 0; i < freq; i++) {
          places.varInt(at[i] - previous);
          previous = at[i];
        }
      }
      previousDoc = doc;
      count++;
    }
  }

  /** Writes what {@link org.mnemex.engine.read.Dictionary} reads. */
  private static final class DictionaryWriter {
    private final List<Integer> offsets = new ArrayList<>();
    private final GrowingBytes entries = new GrowingBytes();

    /** Adds the next string; what is put into the returned bytes is its payload. */
    GrowingBytes add(byte[] text) {
      offsets.add(entries.length());
      entries.varInt(text.length);
      entries.put(text);
      return entries;
    }

    void writeTo(FileOut out) throws IOException {
      out.writeInt(offsets.size());
      for (int offset : offsets) {
        out.writeLong(offset);
      }
      out.writeLong(entries.length());
      entries.writeTo(out);
    }
  }
}
