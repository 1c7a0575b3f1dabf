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
  private volatile State state;

  /** What one search needs. */
  private record State(Snapshot snapshot, FilterCache filters) {}

  /** An edition of which no commit has been taken yet, and which is therefore empty. */
  public EditionCopy(Schema schema) {
    this.state =
        new State(new Snapshot(schema, List.of(), Checkpoint.NONE, 0), EditionFolder.newFilters());
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
    State before = state;
    Schema schema = before.snapshot.schema();
    Manifest commit = Manifest.read(manifest);
    if (!commit.schemaFingerprint().equals(schema.fingerprint())) {
      throw new DamagedFileException(manifest, "it belongs to an edition with other fields", null);
    }
    Map<Path, SegmentView> open = new HashMap<>();
    Map<Long, Path> paths = new HashMap<>();
    for (SegmentView view : before.snapshot.segments()) {
      open.put(view.reader().path(), view);
      paths.put(view.reader().id(), view.reader().path());
    }
    FilterCache filters = before.filters;
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
      if (!paths.getOrDefault(entry.id(), path).equals(path)) {
        // After a return to an older state, a number may mean another segment.
        filters = EditionFolder.newFilters();
      }
    }
    state =
        new State(
            new Snapshot(
                schema, List.copyOf(views), commit.checkpoint(), before.snapshot.number() + 1),
            filters);
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
    State before = state;
    EditionFolder.requireSameFiles(schema, before.snapshot);
    state =
        new State(
            new Snapshot(
                schema,
                before.snapshot.segments(),
                before.snapshot.checkpoint(),
                before.snapshot.number() + 1),
            before.filters);
  }

  /** What is searched now. */
  public Snapshot snapshot() {
    return state.snapshot;
  }

  /** The current snapshot, to be searched. */
  public SearchView view() {
    State now = state;
    return new SearchView(now.snapshot, now.filters);
  }

  /**
   * The current snapshot, to be searched as if the edition had been {@linkplain #redefine
   * redefined}.
   *
   * @throws IllegalArgumentException if the schema's {@link Schema#fingerprint} is another one
   */
  public SearchView view(Schema other) {
    State now = state;
    return EditionFolder.view(now.snapshot, other, now.filters);
  }
}
