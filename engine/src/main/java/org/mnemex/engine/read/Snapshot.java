package org.mnemex.engine.read;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.function.ObjLongConsumer;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.schema.Schema;

/**
 * The edition at one moment. Immutable.
 *
 * @param schema the fields
 * @param segments the segments that are visible
 * @param checkpoint the owner's checkpoint of this moment
 * @param number counts snapshots since the folder was opened
 */
public record Snapshot(
    Schema schema, List<SegmentView> segments, Checkpoint checkpoint, long number) {

  /** How many documents there are. */
  public int documents() {
    return segments.stream().mapToInt(SegmentView::liveCount).sum();
  }

  /** Bytes of the segment files. */
  public long bytes() {
    return segments.stream().mapToLong(segment -> segment.reader().bytes()).sum();
  }

  /** The stored document of a key, or null. */
  public @Nullable StoredDocument document(String key) {
    byte[] utf8 = key.getBytes(StandardCharsets.UTF_8);
    for (SegmentView segment : segments) {
      int doc = segment.find(utf8);
      if (doc >= 0) {
        return segment.reader().stored(doc);
      }
    }
    return null;
  }

  /** The content hash of the document with that key, or null if there is none. */
  public @Nullable Long hash(String key) {
    return lookup().hash(key);
  }

  /** Finds documents by many keys, one after the other. */
  public KeyLookup lookup() {
    return new KeyLookup(this);
  }

  /** Calls {@code visitor} with key and content hash of every document, in no particular order. */
  public void forEachHash(ObjLongConsumer<String> visitor) {
    for (SegmentView segment : segments) {
      SegmentReader reader = segment.reader();
      DocBits live = segment.live();
      for (int doc = live.next(0); doc >= 0; doc = live.next(doc + 1)) {
        visitor.accept(new String(reader.key(doc), StandardCharsets.UTF_8), reader.hash(doc));
      }
    }
  }
}
