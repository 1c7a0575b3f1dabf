package org.mnemex.engine.write;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.mnemex.engine.read.SegmentView;

/**
 * Chooses segments to merge. Segments of similar size form a tier; a tier that is full becomes one
 * segment of the next tier, so that each document is copied a logarithmic number of times (the
 * logarithmic method of Bentley and Saxe 1980). A segment of which more than half is deleted is
 * rewritten alone.
 */
final class MergePolicy {
  private static final int TIER_SEGMENTS = 8;
  private static final int SMALLEST_TIER_DOCUMENTS = 64;

  private MergePolicy() {}

  /** The segments to merge next, empty if there is nothing to do. */
  static List<SegmentView> choose(List<SegmentView> segments) {
    Map<Integer, List<SegmentView>> tiers = new TreeMap<>();
    for (SegmentView segment : segments) {
      int live = segment.liveCount();
      if (live * 2 < segment.reader().documents()) {
        return List.of(segment);
      }
      tiers.computeIfAbsent(tier(live), tier -> new ArrayList<>()).add(segment);
    }
    for (List<SegmentView> tier : tiers.values()) {
      if (tier.size() >= TIER_SEGMENTS) {
        return tier;
      }
    }
    return List.of();
  }

  /** All segments, unless there is only one and nothing of it is deleted. */
  static List<SegmentView> all(List<SegmentView> segments) {
    return segments.size() > 1 || segments.stream().anyMatch(view -> view.deleted() != null)
        ? segments
        : List.of();
  }

  private static int tier(int documents) {
    int tier = 0;
    for (long limit = SMALLEST_TIER_DOCUMENTS; documents > limit; limit *= TIER_SEGMENTS) {
      tier++;
    }
    return tier;
  }
}
