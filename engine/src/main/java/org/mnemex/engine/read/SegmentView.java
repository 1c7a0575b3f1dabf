package org.mnemex.engine.read;

import org.jspecify.annotations.Nullable;

/**
 * A segment as a snapshot sees it.
 *
 * @param reader the segment
 * @param deleted its deleted documents, null if there are none; not to be changed
 */
public record SegmentView(SegmentReader reader, @Nullable DocBits deleted) {
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
    return reader.documents() - (deleted == null ? 0 : deleted.count());
  }

  /** The live document of a key, or -1. */
  public int find(byte[] key) {
    int doc = reader.find(key);
    return doc >= 0 && deleted != null && deleted.get(doc) ? -1 : doc;
  }
}
