package org.mnemex.engine.read;

import java.nio.charset.StandardCharsets;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.KeyFilter;

/**
 * Finds documents of a snapshot by their keys, one after the other; fastest where keys come nearly
 * in order. Belongs to one thread.
 */
public final class KeyLookup {
  private final List<SegmentView> segments;
  private final Dictionary.@Nullable Lookup[] lookups;

  KeyLookup(Snapshot snapshot) {
    segments = snapshot.segments();
    lookups = new Dictionary.Lookup[segments.size()];
  }

  /** The content hash of the document with that key, or null if there is none. */
  public @Nullable Long hash(String key) {
    byte[] utf8 = key.getBytes(StandardCharsets.UTF_8);
    long hash = KeyFilter.hash(utf8);
    for (int i = 0; i < lookups.length; i++) {
      SegmentView segment = segments.get(i);
      if (segment.reader().mayHave(hash)) {
        int doc = (int) lookup(i).number(utf8);
        if (doc >= 0 && segment.isLive(doc)) {
          return segment.reader().hash(doc);
        }
      }
    }
    return null;
  }

  private Dictionary.Lookup lookup(int segment) {
    Dictionary.Lookup known = lookups[segment];
    if (known == null) {
      known = segments.get(segment).reader().keys().lookup();
      lookups[segment] = known;
    }
    return known;
  }
}
