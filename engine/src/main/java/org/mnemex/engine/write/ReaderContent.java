package org.mnemex.engine.write;

import java.util.AbstractList;
import java.util.List;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.Postings;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;

/** An existing segment as the content of another one. */
final class ReaderContent implements SegmentContent {
  private static final int[] NO_POSITIONS = {};

  private final SegmentReader reader;

  ReaderContent(SegmentReader reader) {
    this.reader = reader;
  }

  @Override
  public int documents() {
    return reader.documents();
  }

  @Override
  public byte[] key(int doc) {
    return reader.key(doc);
  }

  @Override
  public long hash(int doc) {
    return reader.hash(doc);
  }

  @Override
  public byte[] stored(int doc) {
    return reader.storedBytes(doc);
  }

  @Override
  public TermCursor terms(Field field) {
    Dictionary terms = reader.terms(field);
    boolean positions = field.type() == FieldType.TEXT;
    return new TermCursor() {
      private int at = -1;

      @Override
      public boolean next() {
        return ++at < terms.size();
      }

      @Override
      public byte[] term() {
        return terms.get(at);
      }

      @Override
      public void postings(PostingSink sink) {
        Postings postings = reader.postings(field, terms, at, positions);
        while (postings.next() != Postings.END) {
          sink.accept(
              postings.doc(), postings.freq(), positions ? postings.positions() : NO_POSITIONS);
        }
      }
    };
  }

  @Override
  public int length(Field field, int doc) {
    return reader.lengths(field).of(doc);
  }

  @Override
  public long[] numbers(Field field, int doc) {
    SegmentReader.NumberColumn column = reader.numbers(field);
    int first = column.first(doc);
    long[] out = new long[column.end(doc) - first];
    for (int i = 0; i < out.length; i++) {
      out[i] = column.value(first + i);
    }
    return out;
  }

  @Override
  public List<byte[]> values(Field field) {
    Dictionary values = reader.ordinals(field).values();
    return new AbstractList<>() {
      @Override
      public byte[] get(int index) {
        return values.get(index);
      }

      @Override
      public int size() {
        return values.size();
      }
    };
  }

  @Override
  public int[] ordinals(Field field, int doc) {
    SegmentReader.OrdinalColumn column = reader.ordinals(field);
    int first = column.first(doc);
    int[] out = new int[column.end(doc) - first];
    for (int i = 0; i < out.length; i++) {
      out[i] = column.ordinal(first + i);
    }
    return out;
  }
}
