package org.mnemex.engine.inspect;

import java.util.List;
import java.util.Map;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;

/**
 * What a snapshot takes on the disk.
 *
 * @param bytes of its segments
 * @param deleted how many documents in them are deleted
 * @param deletedBytes about how much these take, counted by their share of each segment
 * @param parts bytes by part
 * @param fields the fields, the largest first
 */
public record EditionSizes(
    long bytes, long deleted, long deletedBytes, Map<Part, Long> parts, List<FieldPart> fields) {
  /**
   * Adds up a snapshot.
   *
   * @throws org.mnemex.engine.error.DamagedFileException if a file has changed
   */
  public static EditionSizes of(Snapshot snapshot) {
    SizesByField sizes = new SizesByField();
    long deleted = 0;
    double deletedBytes = 0;
    for (SegmentView segment : snapshot.segments()) {
      int documents = segment.reader().documents();
      int gone = documents - segment.liveCount();
      deleted += gone;
      deletedBytes += (double) segment.reader().bytes() * gone / documents;
      sizes.add(segment.reader().file());
    }
    return new EditionSizes(
        snapshot.bytes(), deleted, Math.round(deletedBytes), sizes.parts(), sizes.fields());
  }
}
