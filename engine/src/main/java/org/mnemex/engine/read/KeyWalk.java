package org.mnemex.engine.read;

import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.PriorityQueue;
import org.jspecify.annotations.Nullable;

/** Iterates over the documents of a snapshot in byte order of their keys. Used by one thread. */
public final class KeyWalk {
  private final PriorityQueue<Strand> strands = new PriorityQueue<>();
  private @Nullable Strand current;

  /** One segment's keys, standing at a document that is not deleted. */
  private static final class Strand implements Comparable<Strand> {
    final SegmentView segment;
    final Dictionary.Walk keys;
    final StoredBlocks.Reader stored;

    Strand(SegmentView segment) {
      this.segment = segment;
      this.stored = segment.reader().storedBlocks().reader();
      this.keys = segment.reader().keys().walk();
    }

    /** Advances to a live document, starting at the current one if {@code stay}. */
    boolean settle(boolean stay) {
      boolean more = stay ? keys.hasCurrent() : keys.next();
      while (more && isDeleted()) {
        more = keys.next();
      }
      return more;
    }

    private boolean isDeleted() {
      DocBits deleted = segment.deleted();
      return deleted != null && deleted.get(doc());
    }

    int doc() {
      return (int) keys.number(0);
    }

    @Override
    public int compareTo(Strand other) {
      return Arrays.compareUnsigned(
          keys.buffer(), 0, keys.length(), other.keys.buffer(), 0, other.keys.length());
    }
  }

  /**
   * A walk before the first document after a key.
   *
   * @param after null for all documents
   */
  public KeyWalk(Snapshot snapshot, @Nullable String after) {
    for (SegmentView segment : snapshot.segments()) {
      Strand strand = new Strand(segment);
      boolean found = after != null && strand.keys.seek(after.getBytes(StandardCharsets.UTF_8));
      if (strand.settle(after != null && !found)) {
        strands.add(strand);
      }
    }
  }

  /** Goes to the next document; false if there is none. */
  public boolean next() {
    Strand before = current;
    if (before != null && before.settle(false)) {
      strands.add(before);
    }
    current = strands.poll();
    return current != null;
  }

  private Strand current() {
    Strand strand = current;
    if (strand == null) {
      throw new IllegalStateException("the walk stands at no document");
    }
    return strand;
  }

  /** The key of the current document. */
  public String key() {
    return new String(current().keys.term(), StandardCharsets.UTF_8);
  }

  /** The stored record of the current document. */
  public byte[] record() {
    Strand strand = current();
    return StoredCodec.decodeRecord(strand.stored.read(strand.doc()));
  }
}
