package org.mnemex.engine.write;

import java.io.IOException;
import java.io.InterruptedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.LongConsumer;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.codec.KeyFilter;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.read.SegmentReader;
import org.mnemex.engine.read.SegmentView;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;

/**
 * The single writer of an edition's folder. The package's description tells how documents become
 * visible, durable and merged, and what must hold when the process dies.
 */
public final class EditionWriter implements AutoCloseable {
  private final Folder folder;
  private volatile Schema schema;
  private final long memoryBudgetBytes;
  private List<HeldSegment> segments = new ArrayList<>();
  private final List<PendingDocuments> idle = new ArrayList<>();
  private final Map<String, PendingPlace> pendingPlaces = new HashMap<>();
  private int busy;
  private boolean refreshing;

  /** Segments whose files are being written and which nobody holds yet. */
  private final Set<Long> writing = new HashSet<>();

  /** What has left documents half put; nothing more can be written then. */
  private @Nullable Error broken;

  private long cuts;
  private long nextSegment = 1;
  private long generation;
  private Checkpoint checkpoint = Checkpoint.NONE;
  private Set<String> previousFiles = Set.of();
  private boolean merging;
  private volatile Snapshot snapshot;
  private long committed;
  private final List<String> passedOver;

  /**
   * Opens or creates an edition.
   *
   * @param memoryBudgetBytes pending documents are written to a segment when they take more
   * @param mustExist whether there must have been a commit
   * @throws DamagedFileException if a file that the manifest names cannot be read, or there is no
   *     manifest where there must be one
   * @throws org.mnemex.engine.error.NewerFormatException if a newer version of this program wrote a
   *     file
   * @throws org.mnemex.engine.error.FolderInUseException if there is another writer
   */
  public EditionWriter(Path path, Schema schema, long memoryBudgetBytes, boolean mustExist)
      throws IOException {
    this.schema = schema;
    this.memoryBudgetBytes = memoryBudgetBytes;
    this.folder = new Folder(path);
    try {
      Folder.Manifests manifests = folder.manifests();
      passedOver = manifests.damaged();
      if (!manifests.valid().isEmpty()) {
        open(manifests.valid().getFirst());
      } else if (mustExist) {
        throw new DamagedFileException(
            path.resolve(Manifest.PREFIX + "…"), "there is no manifest any more", null);
      }
      Set<String> keep = currentFiles();
      folder.removeAllBut(keep, Set.of());
      previousFiles = keep;
    } catch (IOException | RuntimeException e) {
      folder.close();
      throw e;
    }
    this.snapshot = publish(0);
  }

  private void open(Manifest manifest) throws IOException {
    if (!manifest.schemaFingerprint().equals(schema.fingerprint())) {
      throw new DamagedFileException(
          folder.path().resolve(Manifest.fileName(manifest.generation())),
          "it belongs to an edition with other fields",
          null);
    }
    generation = manifest.generation();
    nextSegment = manifest.nextSegment();
    checkpoint = manifest.checkpoint();
    for (Manifest.SegmentEntry entry : manifest.segments()) {
      segments.add(HeldSegment.open(folder, entry, schema));
    }
  }

  /** Why manifests were skipped when opening, in favour of an older one. */
  public List<String> passedOver() {
    return passedOver;
  }

  /** The current snapshot for readers. */
  public Snapshot snapshot() {
    return snapshot;
  }

  /**
   * Takes another schema, whose files look the same: it may differ in weights, in what queries are
   * analysed with, and in uses that need nothing more in the files. Searches have it from the next
   * one on.
   *
   * @throws IllegalArgumentException if its files look different
   */
  public synchronized void redefine(Schema other) {
    if (!other.fingerprint().equals(schema.fingerprint())) {
      throw new IllegalArgumentException("a schema of other files needs another edition");
    }
    schema = other;
    snapshot =
        new Snapshot(other, snapshot.segments(), snapshot.checkpoint(), snapshot.number() + 1);
  }

  /**
   * Adds a document, replacing an earlier one of the same key. Visible after a refresh. May be
   * called by several threads; which of two documents of the same key that are put at the same time
   * stays is not defined.
   *
   * @throws IllegalArgumentException if a value does not fit its field; nothing has changed then
   * @throws IllegalStateException if an {@link Error} came up in an earlier put: what was put since
   *     the last refresh may be half there, so the edition has to be opened again
   */
  public void put(Document document) throws IOException {
    PendingDocuments mine = take();
    int doc = -1;
    try {
      doc = mine.add(document);
    } catch (Error e) {
      giveUp(e);
      throw e;
    } finally {
      giveBack(mine, document.key(), doc);
    }
  }

  private synchronized void giveUp(Error cause) {
    broken = broken == null ? cause : broken;
  }

  private void checkUsable() {
    if (broken != null) {
      throw new IllegalStateException(
          "nothing more can be written into the edition before it is opened again, after: "
              + broken,
          broken);
    }
  }

  private synchronized PendingDocuments take() throws IOException {
    try {
      while (refreshing) {
        wait();
      }
    } catch (InterruptedException e) {
      throw interrupted();
    }
    checkUsable();
    busy++;
    return idle.isEmpty() ? new PendingDocuments(schema) : idle.removeLast();
  }

  private void giveBack(PendingDocuments mine, String key, int doc) throws IOException {
    DocBits gone;
    long id;
    synchronized (this) {
      if (doc >= 0) {
        PendingPlace before = pendingPlaces.put(key, new PendingPlace(mine, doc));
        if (before != null) {
          before.documents.remove(before.doc);
        }
        deleteFromSegments(key);
      }
      if (broken != null || mine.bytes() <= memoryBudgetBytes) {
        idle.add(mine);
        busy--;
        notifyAll();
        return;
      }
      gone = mine.gone();
      id = nextSegment++;
      writing.add(id);
    }
    boolean adopted = false;
    try {
      SegmentReader written = mine.isEmpty() ? null : write(id, mine, gone);
      synchronized (this) {
        adopt(mine, gone, written);
        adopted = true;
      }
    } finally {
      synchronized (this) {
        if (!adopted) {
          // A disk without room must not lose what was put: the next one to write tries again.
          idle.add(mine);
        }
        writing.remove(id);
        busy--;
        notifyAll();
      }
    }
  }

  private static InterruptedIOException interrupted() {
    return new InterruptedIOException("interrupted while waiting for another writing thread");
  }

  /** Removes the document of a key; returns whether there was one. */
  public synchronized boolean delete(String key) {
    checkUsable();
    PendingPlace place = pendingPlaces.remove(key);
    if (place != null) {
      place.documents.remove(place.doc);
    }
    return deleteFromSegments(key) || place != null;
  }

  /** How often something was too much for one document and its search was cut, since opening. */
  public synchronized long cuts() {
    return cuts;
  }

  private boolean deleteFromSegments(String key) {
    byte[] utf8 = key.getBytes(StandardCharsets.UTF_8);
    long hash = KeyFilter.hash(utf8);
    for (HeldSegment held : segments) {
      int doc = held.find(utf8, hash);
      if (doc >= 0) {
        held.delete(doc);
        return true;
      }
    }
    return false;
  }

  /** Makes all puts and deletes so far visible, as of {@code checkpoint}. */
  public synchronized Snapshot refresh(Checkpoint checkpoint) throws IOException {
    refreshing = true;
    try {
      while (busy > 0) {
        wait();
      }
      checkUsable();
      flushPending();
      // Only now: a commit must not say of documents that they are there which could not be
      // written.
      this.checkpoint = checkpoint;
    } catch (InterruptedException e) {
      throw interrupted();
    } finally {
      refreshing = false;
      notifyAll();
    }
    snapshot = publish(snapshot.number() + 1);
    return snapshot;
  }

  /**
   * Makes everything durable that the last refresh made visible, with its checkpoint, and nothing
   * that was put or deleted since.
   */
  public synchronized void commit() throws IOException {
    Map<Long, HeldSegment> byId = new HashMap<>();
    segments.forEach(held -> byId.put(held.reader.id(), held));
    generation++;
    List<Manifest.SegmentEntry> entries = new ArrayList<>();
    for (SegmentView view : snapshot.segments()) {
      SegmentReader reader = view.reader();
      HeldSegment held = Objects.requireNonNull(byId.get(reader.id()));
      if (!held.onDisk) {
        folder.syncFile(reader.path());
        held.onDisk = true;
      }
      DocBits deletions = view.deleted();
      if (deletions != null && deletions != held.written) {
        held.deletionsGeneration = generation;
        DeletionsFile.write(folder, reader.id(), generation, deletions);
        held.written = deletions;
      }
      entries.add(
          new Manifest.SegmentEntry(
              reader.id(), held.deletionsGeneration, reader.documents(), reader.bytes()));
    }
    folder.syncNames();
    Manifest manifest =
        new Manifest(generation, nextSegment, schema.fingerprint(), entries, snapshot.checkpoint());
    folder.writeAtomically(Manifest.fileName(generation), manifest.encode());
    committed = snapshot.number();
    Set<Long> visible =
        snapshot.segments().stream().map(view -> view.reader().id()).collect(Collectors.toSet());
    segments.removeIf(
        held -> !held.merging && held.liveCount() == 0 && !visible.contains(held.reader.id()));
    Set<String> current = currentFiles();
    Set<String> keep = new HashSet<>(previousFiles);
    keep.addAll(current);
    folder.removeAllBut(keep, writing);
    previousFiles = current;
  }

  /** The number of the snapshot that was committed last, or of the one that was opened. */
  public synchronized long committed() {
    return committed;
  }

  /**
   * Merges some segments, if there are enough of a size and no merge is running.
   *
   * @return how many documents were copied; 0 if there was nothing to do
   */
  public int mergeStep() throws IOException {
    return merge(MergePolicy::choose, bytes -> {});
  }

  /**
   * Merges all segments into one and leaves out what is deleted, unless it is so already or a merge
   * is running.
   *
   * @param written told how many bytes of the new segment are written, part by part; what it throws
   *     stops the merging, and everything is as it was
   * @return how many documents were copied
   */
  public int compact(LongConsumer written) throws IOException {
    return merge(MergePolicy::all, written);
  }

  private int merge(UnaryOperator<List<SegmentView>> policy, LongConsumer written)
      throws IOException {
    List<HeldSegment> chosen = new ArrayList<>();
    MergedContent content = new MergedContent(schema);
    long id;
    boolean forced;
    synchronized (this) {
      if (merging) {
        return 0;
      }
      Map<Long, HeldSegment> byId = new HashMap<>();
      segments.forEach(held -> byId.put(held.reader.id(), held));
      for (SegmentView view : policy.apply(snapshot.segments())) {
        HeldSegment held = byId.get(view.reader().id());
        if (held != null) {
          chosen.add(held);
          // What is deleted but not yet refreshed stays visible; replace() carries it over.
          content.add(new ReaderContent(held.reader), view.deleted());
        }
      }
      if (chosen.isEmpty()) {
        return 0;
      }
      merging = true;
      forced = isMostlyOnDisk(chosen);
      id = nextSegment++;
      writing.add(id);
      for (HeldSegment held : chosen) {
        held.merging = true;
      }
    }
    boolean replaced = false;
    try {
      SegmentReader merged = null;
      if (content.documents() > 0) {
        SegmentWriter.write(folder.segment(id), id, schema, content, written, forced);
        merged = SegmentReader.openWritten(folder.segment(id), schema);
      }
      synchronized (this) {
        replace(chosen, content, merged, forced);
      }
      replaced = true;
      return content.documents();
    } finally {
      if (!replaced) {
        // A full disk needs the room of what cannot be finished.
        Files.deleteIfExists(folder.segment(id));
      }
      synchronized (this) {
        merging = false;
        writing.remove(id);
        chosen.forEach(held -> held.merging = false);
      }
    }
  }

  /**
   * Whether what is merged of some segments is forced to the disk at once. The next commit would do
   * it as well, but changes wait for commits. While an index is filled, commits are rare, nobody
   * waits for changes, and segments are often merged again before the next one.
   */
  private static boolean isMostlyOnDisk(List<HeldSegment> segments) {
    long bytes = segments.stream().mapToLong(held -> held.reader.bytes()).sum();
    long onDisk =
        segments.stream().filter(held -> held.onDisk).mapToLong(held -> held.reader.bytes()).sum();
    return 2 * onDisk >= bytes;
  }

  private void replace(
      List<HeldSegment> chosen,
      MergedContent content,
      @Nullable SegmentReader merged,
      boolean onDisk) {
    MergedSegment taken = new MergedSegment(chosen, content, merged, onDisk);
    List<HeldSegment> after = new ArrayList<>(segments);
    after.removeAll(chosen);
    after.addAll(taken.held());
    segments = after;
    // The same documents under the same checkpoint as before: only what a refresh published counts.
    snapshot =
        new Snapshot(
            schema,
            taken.visible(snapshot.segments()),
            snapshot.checkpoint(),
            snapshot.number() + 1);
  }

  private void flushPending() throws IOException {
    while (!idle.isEmpty()) {
      PendingDocuments pending = idle.getLast();
      DocBits gone = pending.gone();
      adopt(pending, gone, pending.isEmpty() ? null : write(nextSegment++, pending, gone));
      idle.removeLast();
    }
  }

  private SegmentReader write(long id, PendingDocuments pending, @Nullable DocBits gone)
      throws IOException {
    SegmentContent content = pending;
    if (gone != null) {
      MergedContent without = new MergedContent(schema);
      without.add(pending, gone);
      content = without;
    }
    SegmentWriter.write(folder.segment(id), id, schema, content, bytes -> {}, false);
    return SegmentReader.openWritten(folder.segment(id), schema);
  }

  /** Takes over a segment that was written of pending documents, and what went since. */
  private void adopt(
      PendingDocuments pending, @Nullable DocBits gone, @Nullable SegmentReader written) {
    cuts += pending.cuts();
    pendingPlaces.values().removeIf(place -> place.documents == pending);
    if (written == null) {
      return;
    }
    segments.add(HeldSegment.of(written, pending, gone));
  }

  private Snapshot publish(long number) {
    List<SegmentView> views = new ArrayList<>();
    for (HeldSegment held : segments) {
      if (held.liveCount() > 0) {
        views.add(new SegmentView(held.reader, held.deletionsCopy()));
      }
    }
    return new Snapshot(schema, List.copyOf(views), checkpoint, number);
  }

  private Set<String> currentFiles() {
    Set<String> names = new HashSet<>();
    names.add(Manifest.fileName(generation));
    segments.forEach(
        held -> names.addAll(folder.names(held.reader.id(), held.deletionsGeneration)));
    return names;
  }

  /**
   * Compares every byte of every segment with its checksums.
   *
   * @throws DamagedFileException naming the first file that has changed
   */
  public void verify() {
    snapshot.segments().forEach(view -> view.reader().verify());
  }

  /** Links the files of the last commit into another folder; no commit comes between. */
  public synchronized void link(Path to) throws IOException {
    folder.link(to);
  }

  /** Releases the folder. Uncommitted changes are lost. */
  @Override
  public synchronized void close() throws IOException {
    folder.close();
  }

  private record PendingPlace(PendingDocuments documents, int doc) {}
}
