package org.mnemex.engine.write;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;

/**
 * Some segments and the one that they were merged into. What was deleted of them while they were
 * copied is deleted of the new one, too.
 *
 * @param parts what was merged
 * @param content where each of their documents went
 * @param merged null if nothing of them was left
 * @param onDisk whether it was forced to the disk
 */
record MergedSegment(
    List<HeldSegment> parts,
    MergedContent content,
    @Nullable SegmentReader merged,
    boolean onDisk) {

  /** What the writer holds in their place: one segment, or none. */
  List<HeldSegment> held() {
    if (merged == null) {
      return List.of();
    }
    HeldSegment replacement = new HeldSegment(merged);
    replacement.onDisk = onDisk;
    for (int part = 0; part < parts.size(); part++) {
      DocBits now = parts.get(part).deletions;
      for (int doc = now == null ? -1 : now.next(0); now != null && doc >= 0; ) {
        int newDoc = content.newDoc(part, doc);
        if (newDoc >= 0) {
          replacement.delete(newDoc);
        }
        doc = now.next(doc + 1);
      }
    }
    return List.of(replacement);
  }

  /**
   * What readers see in their place: the merged segment with the deletions that readers may already
   * see, and no others.
   */
  List<SegmentView> visible(List<SegmentView> before) {
    Map<Long, Integer> partById = new HashMap<>();
    for (int part = 0; part < parts.size(); part++) {
      partById.put(parts.get(part).reader.id(), part);
    }
    // A segment of which nothing was visible any more is not in the snapshot.
    DocBits deleted = merged == null ? new DocBits(0) : DocBits.all(merged.documents());
    List<SegmentView> views = new ArrayList<>();
    for (SegmentView view : before) {
      Integer part = partById.get(view.reader().id());
      if (part == null) {
        views.add(view);
        continue;
      }
      DocBits visible = view.live();
      for (int doc = visible.next(0); doc >= 0; doc = visible.next(doc + 1)) {
        deleted.clear(content.newDoc(part, doc));
      }
    }
    if (merged != null && deleted.count() < merged.documents()) {
      views.add(new SegmentView(merged, deleted.count() == 0 ? null : deleted));
    }
    return List.copyOf(views);
  }
}
