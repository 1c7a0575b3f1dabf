package org.mnemex.engine.write;

import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;

/** A segment that the writer holds, with its deletions up to the last put or delete. */
final class HeldSegment {
  final SegmentReader reader;
  @Nullable DocBits deletions;
  private @Nullable DocBits published;
  private int deleted;

  /** The deletions that the newest file has. */
  @Nullable DocBits written;

  long deletionsGeneration;
  boolean onDisk;
  boolean merging;

  HeldSegment(SegmentReader reader) {
    this.reader = reader;
  }

  void delete(int doc) {
    if (deletions == null) {
      deletions = new DocBits(reader.documents());
    }
    if (!deletions.get(doc)) {
      deletions.set(doc);
      deleted++;
    }
    published = null;
  }

  /** Takes over the deletions that a file has. */
  void deleteAll(DocBits bits) {
    deletions = bits;
    published = bits.copy();
    written = published;
    deleted = bits.count();
  }

  /** The deletions as they are now; copied only if they changed since the last copy. */
  @Nullable DocBits deletionsCopy() {
    if (published == null && deletions != null) {
      published = deletions.copy();
    }
    return published;
  }

  int liveCount() {
    return reader.documents() - deleted;
  }
}
