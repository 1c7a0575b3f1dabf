package org.mnemex.engine.write;

import java.io.IOException;
import java.util.function.IntPredicate;
import java.util.function.IntUnaryOperator;
import org.mnemex.engine.codec.PackedNumbers;
import org.mnemex.engine.read.Column;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.StoredBlocks;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.store.Bytes;

/** An existing segment as the content of another one. */
final class ReaderContent implements SegmentContent {
  private final SegmentReader reader;

  ReaderContent(SegmentReader reader) {
    this.reader = reader;
  }

  @Override
  public int documents() {
    return reader.documents();
  }

  @Override
  public KeyWalk keys() {
    Dictionary.Walk walk = reader.keys().walk();
    return new KeyWalk() {
      @Override
      public boolean next() {
        return walk.next();
      }

      @Override
      public byte[] key() {
        return walk.term();
      }

      @Override
      public int doc() {
        return (int) walk.number(0);
      }
    };
  }

  @Override
  public long hash(int doc) {
    return reader.hash(doc);
  }

  @Override
  public void stored(StoredSink sink) throws IOException {
    StoredBlocks blocks = reader.storedBlocks();
    for (int block = 0; block < blocks.count(); block++) {
      sink.block(blocks.raw(block), blocks.firstDoc(block + 1) - blocks.firstDoc(block));
    }
  }

  /** As {@link #stored}, document by document, for those that {@code wanted} does not refuse. */
  void storedOneByOne(StoredSink sink, IntPredicate wanted) throws IOException {
    StoredBlocks blocks = reader.storedBlocks();
    for (int block = 0; block < blocks.count(); block++) {
      int first = blocks.firstDoc(block);
      int end = blocks.firstDoc(block + 1);
      int kept = 0;
      for (int doc = first; doc < end; doc++) {
        kept += wanted.test(doc) ? 1 : 0;
      }
      if (kept == end - first) {
        sink.block(blocks.raw(block), kept);
      } else if (kept > 0) {
        Bytes in = blocks.documents(block);
        for (int doc = first; doc < end; doc++) {
          byte[] bytes = in.readBytes(in.readVarInt());
          if (wanted.test(doc)) {
            sink.document(bytes);
          }
        }
      }
    }
  }

  @Override
  public TermWalk terms(Field field) {
    Dictionary.Walk walk = reader.terms(field).walk();
    boolean text = field.type() == FieldType.TEXT;
    return new TermWalk() {
      private int[] positions = new int[16];

      @Override
      public boolean next() {
        return walk.next();
      }

      @Override
      public byte[] term() {
        return walk.term();
      }

      @Override
      public void postings(PostingSink sink) throws IOException {
        Postings postings = reader.postings(field, walk, text);
        while (postings.next() != Postings.END) {
          int freq = postings.freq();
          if (text) {
            if (positions.length < freq) {
              positions = new int[2 * freq];
            }
            postings.positions(positions);
          }
          sink.accept(postings.doc(), freq, text ? positions : null);
        }
      }
    };
  }

  @Override
  public IntUnaryOperator lengthCodes(Field field) {
    return reader.lengths(field)::code;
  }

  @Override
  public ValueWalk values(Field field) {
    Dictionary.Walk walk = reader.values(field).walk();
    return new ValueWalk() {
      @Override
      public boolean next() {
        return walk.next();
      }

      @Override
      public byte[] value() {
        return walk.term();
      }
    };
  }

  @Override
  public Rows column(Field field) {
    Column column = reader.column(field);
    return new Rows() {
      @Override
      public int rows() {
        return column.rows();
      }

      @Override
      public int count(int row) {
        return column.end(row) - column.first(row);
      }

      @Override
      public long value(int row, int which) {
        return column.value(column.first(row) + which);
      }
    };
  }

  @Override
  public Rows places(Field field, boolean latitude) {
    SegmentReader.PlaceColumn places = reader.places(field);
    PackedNumbers numbers = latitude ? places.latitudes() : places.longitudes();
    return new Rows() {
      @Override
      public int rows() {
        return places.present().rows();
      }

      @Override
      public int count(int row) {
        return places.present().has(row) ? 1 : 0;
      }

      @Override
      public long value(int row, int which) {
        return numbers.get(row);
      }
    };
  }

  @Override
  public IntUnaryOperator childRows(Field group) {
    PackedNumbers firsts = reader.groupFirsts(group);
    return doc -> (int) (firsts.get(doc + 1L) - firsts.get(doc));
  }
}
