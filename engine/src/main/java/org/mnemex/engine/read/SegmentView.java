package org.mnemex.engine.read;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.LengthCode;
import org.mnemex.engine.schema.Field;

/**
 * A segment as a snapshot sees it.
 *
 * @param reader the segment
 * @param deleted its deleted documents, null if there are none; not to be changed. The next view of
 *     the same reader has all of them, too
 * @param deletedCount how many of them there are
 */
public record SegmentView(SegmentReader reader, @Nullable DocBits deleted, int deletedCount) {
  /** A document of so many is looked up for less than the others are walked through. */
  private static final int SPARSE = 8;

  private static final int HAVING = -1;
  private static final int TOTAL = -2;

  public SegmentView(SegmentReader reader, @Nullable DocBits deleted) {
    this(reader, deleted, deleted == null ? 0 : deleted.count());
  }

  /** The documents that are not deleted, as a new set. */
  public DocBits live() {
    DocBits live = DocBits.all(reader.documents());
    if (deleted != null) {
      live.andNot(deleted);
    }
    return live;
  }

  /** How many documents are not deleted. */
  public int liveCount() {
    return reader.documents() - deletedCount;
  }

  /** The live document of a key, or -1. */
  public int find(byte[] key) {
    int doc = reader.find(key);
    return doc >= 0 && isLive(doc) ? doc : -1;
  }

  /** Whether a document is not deleted. */
  boolean isLive(int doc) {
    return deleted == null || !deleted.get(doc);
  }

  /**
   * In how many live documents the term stands at which a walk through the terms of a field stands.
   * Of a field of child rows: in how many rows, those of deleted documents included.
   */
  public int having(Field field, Dictionary.Walk term) {
    int all = (int) term.number(0);
    if (deleted == null || field.isChild()) {
      return all;
    }
    DeletedSums.Key key = new DeletedSums.Key(field.name(), term.place());
    return all
        - (int)
            reader.deletedSums().of(key, deleted, deletedCount, new OfTerm(reader, field, term));
  }

  /**
   * Lengths of a text field in the live documents, as they are scored. Of a field of child rows:
   * those of deleted documents included.
   */
  public Lengths lengths(Field field) {
    Lengths all =
        reader.derived("sum of lengths of " + field.name(), () -> sum(reader.lengths(field)));
    if (deleted == null || field.isChild()) {
      return all;
    }
    SegmentReader.Lengths codes = reader.lengths(field);
    DeletedSums sums = reader.deletedSums();
    return new Lengths(
        all.total - sums.of(key(field, TOTAL), deleted, deletedCount, new OfEach(codes, false)),
        all.documents
            - sums.of(key(field, HAVING), deleted, deletedCount, new OfEach(codes, true)));
  }

  /**
   * Lengths of a text field.
   *
   * @param total their sum
   * @param documents how many have the field
   */
  public record Lengths(long total, long documents) {}

  private static DeletedSums.Key key(Field field, int what) {
    return new DeletedSums.Key(field.name(), what);
  }

  private static Lengths sum(SegmentReader.Lengths lengths) {
    int[] often = new int[LengthCode.CODES];
    for (int row = 0; row < lengths.rows(); row++) {
      often[lengths.code(row)]++;
    }
    long total = 0;
    for (int code = 1; code < often.length; code++) {
      total += (long) often[code] * LengthCode.length(code);
    }
    return new Lengths(total, lengths.rows() - often[0]);
  }

  /** Counts documents with a term. */
  private record OfTerm(SegmentReader reader, Field field, Dictionary.Walk term)
      implements DeletedSums.Adder {
    @Override
    public long over(DocBits docs, int count) {
      Postings postings = reader.postings(field, term, false);
      long having = 0;
      if (postings.count() < (long) SPARSE * count) {
        for (int n = postings.nextDocs(); n > 0; n = postings.nextDocs()) {
          int[] here = postings.docs();
          for (int i = 0; i < n; i++) {
            having += docs.get(here[i]) ? 1 : 0;
          }
        }
        return having;
      }
      for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
        having += postings.advance(doc) == doc ? 1 : 0;
      }
      return having;
    }

    @Override
    public long over(int[] docs) {
      Postings postings = reader.postings(field, term, false);
      long having = 0;
      for (int doc : docs) {
        having += postings.advance(doc) == doc ? 1 : 0;
      }
      return having;
    }
  }

  /** Adds lengths up, or counts the documents that have one. */
  private record OfEach(SegmentReader.Lengths lengths, boolean counting)
      implements DeletedSums.Adder {
    @Override
    public long over(DocBits docs, int count) {
      long sum = 0;
      for (int doc = docs.next(0); doc >= 0; doc = docs.next(doc + 1)) {
        sum += of(doc);
      }
      return sum;
    }

    @Override
    public long over(int[] docs) {
      long sum = 0;
      for (int doc : docs) {
        sum += of(doc);
      }
      return sum;
    }

    private int of(int doc) {
      return counting ? Math.min(1, lengths.code(doc)) : lengths.of(doc);
    }
  }
}
