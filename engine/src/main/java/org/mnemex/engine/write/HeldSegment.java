package org.mnemex.engine.write;

import java.io.IOException;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.KeyFilter;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;

/** A segment that the writer holds, with its deletions up to the last put or delete. */
final class HeldSegment {
  final SegmentReader reader;
  @Nullable DocBits deletions;
  private @Nullable DocBits published;
  private Dictionary.@Nullable Lookup lookup;
  private int deleted;

  /** The deletions that the newest file has. */
  @Nullable DocBits written;

  long deletionsGeneration;
  boolean onDisk;
  boolean merging;

  HeldSegment(SegmentReader reader) {
    this.reader = reader;
  }

  /**
   * The live document of a key, or -1.
   *
   * @param hash that of the key by {@link KeyFilter}
   */
  int find(byte[] key, long hash) {
    if (!reader.mayHave(hash)) {
      return -1;
    }
    Dictionary.Lookup known = lookup;
    if (known == null) {
      known = reader.keys().lookup();
      lookup = known;
    }
    int doc = (int) known.number(key);
    return doc >= 0 && deletions != null && deletions.get(doc) ? -1 : doc;
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

  /**
   * A segment that a manifest names.
   *
   * @throws org.mnemex.engine.error.DamagedFileException if its files are not what the manifest
   *     says
   */
  static HeldSegment open(Folder folder, Manifest.SegmentEntry entry, Schema schema)
      throws IOException {
    SegmentReader reader = SegmentReader.open(folder.segment(entry.id()), entry, schema);
    HeldSegment held = new HeldSegment(reader);
    held.onDisk = true;
    if (entry.deletions() > 0) {
      held.deleteAll(DeletionsFile.read(folder.deletions(entry.id(), entry.deletions()), entry));
      held.deletionsGeneration = entry.deletions();
    }
    return held;
  }

  /**
   * A segment that was written of pending documents.
   *
   * @param gone those that were deleted before, and so were not written; null for none
   */
  static HeldSegment of(SegmentReader written, PendingDocuments pending, @Nullable DocBits gone) {
    HeldSegment held = new HeldSegment(written);
    int newDoc = 0;
    for (int doc = 0; doc < pending.documents(); doc++) {
      if (gone == null || !gone.get(doc)) {
        if (pending.isGone(doc)) {
          held.delete(newDoc);
        }
        newDoc++;
      }
    }
    return held;
  }
}
