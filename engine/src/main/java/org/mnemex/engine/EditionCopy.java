package org.mnemex.engine;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.NewerFormatException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;
import org.mnemex.engine.write.DeletionsFile;

/**
 * An edition that somebody else writes: its files come here commit by commit, and it is searched as
 * of the last one that was taken.
 *
 * <p>Searching may go on in any number of threads and never waits; one thread at a time takes
 * commits. A file is only recognised again by its path, so a path must always mean the same bytes.
 */
public final class EditionCopy {
  private final FilterCache filters = EditionFolder.newFilters();
  private volatile Snapshot snapshot;

  /** An edition of which no commit has been taken yet, and which is therefore empty. */
  public EditionCopy(Schema schema) {
    this.snapshot = new Snapshot(schema, List.of(), Checkpoint.NONE, 0);
  }

  /**
   * Moves on to a commit. Segments that are open already are not opened again.
   *
   * @param manifest the manifest of the commit
   * @param files the path of a file of the commit, by the name that it has in the edition's folder
   * @throws DamagedFileException if a file is missing, cut or changed, or belongs to other fields;
   *     what was searched before still is
   * @throws NewerFormatException if a newer version of this program wrote a file
   */
  public void take(Path manifest, Function<String, Path> files) throws IOException {
    Snapshot before = snapshot;
    Schema schema = before.schema();
    Manifest commit = Manifest.read(manifest);
    if (!commit.schemaFingerprint().equals(schema.fingerprint())) {
      throw new DamagedFileException(manifest, "it belongs to an edition with other fields", null);
    }
    Map<Path, SegmentView> open = new HashMap<>();
    for (SegmentView view : before.segments()) {
      open.put(view.reader().path(), view);
    }
    List<SegmentView> views = new ArrayList<>();
    for (Manifest.SegmentEntry entry : commit.segments()) {
      Path path = files.apply(Folder.segmentName(entry.id()));
      DocBits deleted =
          entry.deletions() == 0
              ? null
              : DeletionsFile.read(
                  files.apply(Folder.deletionsName(entry.id(), entry.deletions())), entry);
      SegmentView known = open.get(path);
      SegmentView view =
          new SegmentView(
              known != null && isGrown(known.deleted(), deleted)
                  ? known.reader()
                  : SegmentReader.open(path, entry, schema),
              deleted);
      if (view.liveCount() > 0) {
        views.add(view);
      }
    }
    snapshot = new Snapshot(schema, List.copyOf(views), commit.checkpoint(), before.number() + 1);
  }

  /** Whether a reader may go on; after a return to an older state it may not. */
  private static boolean isGrown(@Nullable DocBits before, @Nullable DocBits now) {
    return before == null || now != null && now.containsAll(before);
  }

  /**
   * Switches to another schema with the same files, from the next search on.
   *
   * @throws IllegalArgumentException if its {@link Schema#fingerprint} is another one
   */
  public void redefine(Schema schema) {
    Snapshot before = snapshot;
    EditionFolder.requireSameFiles(schema, before);
    snapshot = new Snapshot(schema, before.segments(), before.checkpoint(), before.number() + 1);
  }

  /** What is searched now. */
  public Snapshot snapshot() {
    return snapshot;
  }

  /** The current snapshot, to be searched. */
  public SearchView view() {
    return new SearchView(snapshot, filters);
  }

  /**
   * The current snapshot, to be searched as if the edition had been {@linkplain #redefine
   * redefined}.
   *
   * @throws IllegalArgumentException if the schema's {@link Schema#fingerprint} is another one
   */
  public SearchView view(Schema other) {
    return EditionFolder.view(snapshot, other, filters);
  }
}
