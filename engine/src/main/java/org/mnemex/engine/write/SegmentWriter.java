package org.mnemex.engine.write;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.IntUnaryOperator;
import java.util.function.LongConsumer;
import java.util.stream.IntStream;
import org.mnemex.engine.codec.KeyFilter;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.codec.PackedNumbersWriter;
import org.mnemex.engine.read.Cells;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.FileOut;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;
import org.mnemex.engine.text.Folding;

/** Writes one segment file from its content, section by section. */
final class SegmentWriter {
  private final Schema schema;
  private final SegmentContent content;
  private final SegmentFile.Writer file;
  private final Path path;

  private SegmentWriter(Schema schema, SegmentContent content, SegmentFile.Writer file, Path path) {
    this.schema = schema;
    this.content = content;
    this.file = file;
    this.path = path;
  }

  /**
   * Writes {@code content} to {@code path}.
   *
   * @param written told after each section how many bytes are written; may throw, to stop
   * @param forced whether the file is forced to the disk
   */
  static void write(
      Path path,
      long id,
      Schema schema,
      SegmentContent content,
      LongConsumer written,
      boolean forced)
      throws IOException {
    try (SegmentFile.Writer file =
        new SegmentFile.Writer(path, id, content.documents(), written, forced)) {
      new SegmentWriter(schema, content, file, path).writeSections();
      file.finish();
    }
  }

  private void writeSections() throws IOException {
    writeFields();
    writeKeys();
    writeHashes();
    try (StoredWriter stored = new StoredWriter(file)) {
      content.stored(stored);
      stored.finish(file);
    }
    int number = 0;
    for (Field field : schema.fieldsAndChildren()) {
      writeField(field, number++);
    }
  }

  private void writeField(Field field, int number) throws IOException {
    ColumnWriter column = new ColumnWriter(file, number);
    if (field.hasTerms()) {
      if (field.type() == FieldType.TEXT) {
        writeLengths(field, number);
      }
      try (TermsWriter terms =
          new TermsWriter(
              field,
              field.type() == FieldType.TEXT ? content.lengthCodes(field) : doc -> 0,
              temporary(number))) {
        terms.write(content.terms(field), file, number);
      }
    }
    if (field.type() == FieldType.GROUP) {
      column.writeGroupFirsts(content.documents(), content.childRows(field));
    }
    if (!field.hasColumn()) {
      return;
    }
    if (field.type() == FieldType.PLACE) {
      column.writePlaces(content.places(field, true), content.places(field, false));
      writeCells(field, number);
      return;
    }
    if (field.type().isOrdinal()) {
      writeValues(field, number);
    }
    column.write(content.column(field));
  }

  private Path temporary(int number) {
    return path.resolveSibling(path.getFileName() + "." + number + ".tmp");
  }

  private void writeFields() throws IOException {
    FileOut out = file.begin(SegmentLayout.FIELDS, SegmentLayout.NO_FIELD);
    out.writeVarInt(schema.fieldsAndChildren().size());
    for (Field field : schema.fieldsAndChildren()) {
      for (String text : List.of(field.name(), field.signature())) {
        byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
        out.writeVarInt(utf8.length);
        out.writeBytes(utf8);
      }
    }
    file.end();
  }

  private void writeKeys() throws IOException {
    int[] placeByDoc = new int[content.documents()];
    KeyFilter.Builder filter = new KeyFilter.Builder(content.documents());
    try (DictionaryWriter dictionary = new DictionaryWriter(temporary(-1), 1, 0)) {
      SegmentContent.KeyWalk keys = content.keys();
      for (int place = 0; keys.next(); place++) {
        placeByDoc[keys.doc()] = place;
        byte[] key = keys.key();
        dictionary.add(key, keys.doc());
        filter.add(key);
      }
      dictionary.writeTo(file.begin(SegmentLayout.KEYS, SegmentLayout.NO_FIELD));
      file.end();
    }
    PackedNumbersWriter places =
        new PackedNumbersWriter(file.begin(SegmentLayout.KEY_PLACES, SegmentLayout.NO_FIELD));
    for (int place : placeByDoc) {
      places.add(place);
    }
    places.finish();
    file.end();
    file.begin(SegmentLayout.KEY_FILTER, SegmentLayout.NO_FIELD).writeBytes(filter.bytes());
    file.end();
  }

  private void writeHashes() throws IOException {
    FileOut out = file.begin(SegmentLayout.HASHES, SegmentLayout.NO_FIELD);
    for (int doc = 0; doc < content.documents(); doc++) {
      out.writeLong(content.hash(doc));
    }
    file.end();
  }

  private void writeLengths(Field field, int number) throws IOException {
    IntUnaryOperator codes = content.lengthCodes(field);
    int rows = rows(field);
    long total = 0;
    int having = 0;
    for (int row = 0; row < rows; row++) {
      int length = LengthCode.length(codes.applyAsInt(row));
      total += length;
      having += length > 0 ? 1 : 0;
    }
    FileOut out = file.begin(SegmentLayout.LENGTHS, number);
    out.writeLong(total);
    out.writeInt(having);
    for (int row = 0; row < rows; row++) {
      out.writeByte(codes.applyAsInt(row));
    }
    file.end();
  }

  private int rows(Field field) {
    if (!field.isChild()) {
      return content.documents();
    }
    return IntStream.range(0, content.documents())
        .map(content.childRows(schema.groupOf(field)))
        .sum();
  }

  private void writeValues(Field field, int number) throws IOException {
    List<String> folded = new ArrayList<>();
    try (DictionaryWriter dictionary = new DictionaryWriter(temporary(number), 0, 0)) {
      SegmentContent.ValueWalk values = content.values(field);
      while (values.next()) {
        dictionary.add(values.value());
        if (field.fold()) {
          folded.add(Folding.foldCase(new String(values.value(), StandardCharsets.UTF_8)));
        }
      }
      dictionary.writeTo(file.begin(SegmentLayout.VALUES, number));
      file.end();
    }
    if (field.fold()) {
      PackedNumbersWriter ranks =
          new PackedNumbersWriter(file.begin(SegmentLayout.FOLDED_RANKS, number));
      for (int rank : ranks(folded)) {
        ranks.add(rank);
      }
      ranks.finish();
      file.end();
    }
  }

  /** For each text its rank in the order of UTF-8; equal ones have the same. */
  private static int[] ranks(List<String> texts) {
    byte[][] bytes = new byte[texts.size()][];
    Arrays.setAll(bytes, i -> texts.get(i).getBytes(StandardCharsets.UTF_8));
    Integer[] order = new Integer[bytes.length];
    Arrays.setAll(order, i -> i);
    Arrays.sort(order, (a, b) -> Arrays.compareUnsigned(bytes[a], bytes[b]));
    int[] ranks = new int[bytes.length];
    int rank = -1;
    for (int i = 0; i < order.length; i++) {
      if (i == 0 || !Arrays.equals(bytes[order[i]], bytes[order[i - 1]])) {
        rank++;
      }
      ranks[order[i]] = rank;
    }
    return ranks;
  }

  private void writeCells(Field field, int number) throws IOException {
    SegmentContent.Rows latitudes = content.places(field, true);
    SegmentContent.Rows longitudes = content.places(field, false);
    long[] cells = new long[latitudes.rows()];
    int used = 0;
    for (int row = 0; row < latitudes.rows(); row++) {
      if (latitudes.count(row) > 0) {
        cells[used++] = Cells.of(latitudes.value(row, 0), longitudes.value(row, 0)) << 31 | row;
      }
    }
    Arrays.sort(cells, 0, used);
    PackedNumbersWriter out = new PackedNumbersWriter(file.begin(SegmentLayout.CELLS, number));
    for (int i = 0; i < used; i++) {
      out.add(cells[i]);
    }
    out.finish();
    file.end();
  }
}
