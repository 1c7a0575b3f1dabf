package org.mnemex.engine;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.function.LongConsumer;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.FolderInUseException;
import org.mnemex.engine.error.NewerFormatException;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggestion;
import org.mnemex.engine.write.EditionWriter;

/**
 * One edition in one folder: the engine's entry.
 *
 * <pre>{@code
 * try (EditionFolder edition = EditionFolder.open(path, schema)) {
 *   edition.put(document);
 *   edition.refresh(new Checkpoint(Map.of("position", "17")));
 *   SearchResult result = edition.search(request);
 *   edition.commit();
 * }
 * }</pre>
 *
 * <p>All methods may be called by several threads at once; reading never waits.
 */
public final class EditionFolder implements AutoCloseable {
  /** For what one thread has written; a small heap gives less of itself. */
  private static final long MEMORY_BUDGET_BYTES =
      Math.clamp(Runtime.getRuntime().maxMemory() / 64, 8L << 20, 64L << 20);

  private static final long FILTER_CACHE_BYTES = 16L << 20;

  private final EditionWriter writer;
  private final FilterCache filters = newFilters();

  private EditionFolder(EditionWriter writer) {
    this.writer = writer;
  }

  /**
   * Opens the edition in a folder, or creates an empty one.
   *
   * @throws DamagedFileException if a file cannot be read, with what to do
   * @throws NewerFormatException if a newer version of this program wrote a file
   * @throws FolderInUseException if it is open already, here or in another process
   */
  public static EditionFolder open(Path folder, Schema schema) throws IOException {
    return new EditionFolder(new EditionWriter(folder, schema, MEMORY_BUDGET_BYTES, false));
  }

  /**
   * Opens an edition that was committed before.
   *
   * @throws DamagedFileException if a file cannot be read, or the folder or its manifest is gone
   * @throws FolderInUseException if it is open already, here or in another process
   */
  public static EditionFolder openCommitted(Path folder, Schema schema) throws IOException {
    return new EditionFolder(new EditionWriter(folder, schema, MEMORY_BUDGET_BYTES, true));
  }

  /** Why manifests were skipped when opening, in favour of an older one. */
  public List<String> passedOver() {
    return writer.passedOver();
  }

  /**
   * Switches to another schema with the same files, from the next search on.
   *
   * @throws IllegalArgumentException if its {@link Schema#fingerprint} is another one
   */
  public void redefine(Schema schema) {
    writer.redefine(schema);
  }

  /** Adds a document, replacing an earlier one of the same key. */
  public void put(Document document) throws IOException {
    writer.put(document);
  }

  /** Removes the document of a key; returns whether there was one. */
  public boolean delete(String key) {
    return writer.delete(key);
  }

  /** Makes puts and deletes visible, as of {@code checkpoint}. */
  public Snapshot refresh(Checkpoint checkpoint) throws IOException {
    return writer.refresh(checkpoint);
  }

  /** Makes the visible state durable, together with its checkpoint. */
  public void commit() throws IOException {
    writer.commit();
  }

  /**
   * The {@linkplain Snapshot#number number} of the snapshot that is durable; a later one, that of a
   * merge as well, is lost when the folder is closed.
   */
  public long committed() {
    return writer.committed();
  }

  /** Runs one merge step; returns the number of copied documents, 0 if there was nothing to do. */
  public int mergeStep() throws IOException {
    return writer.mergeStep();
  }

  /**
   * Merges everything into one segment without deletions. The disk needs room for both meanwhile.
   *
   * @param written told how many bytes of the new segment are written, part by part; what it throws
   *     stops the merging, and everything is as it was
   * @return the number of copied documents; 0 if there was nothing to do, or a merge is running
   */
  public int compact(LongConsumer written) throws IOException {
    return writer.compact(written);
  }

  /**
   * Puts hard links to the files of the last commit into another folder of the same file system.
   * They can be opened there as they are now, whatever happens here afterwards.
   */
  public void link(Path to) throws IOException {
    writer.link(to);
  }

  /**
   * Compares every byte with its checksums.
   *
   * @throws DamagedFileException naming the first file that has changed
   */
  public void verify() {
    writer.verify();
  }

  /** How often a document exceeded a limit and was indexed in part, since opening. */
  public long cuts() {
    return writer.cuts();
  }

  /** The current snapshot. */
  public Snapshot snapshot() {
    return writer.snapshot();
  }

  /** The current snapshot, to be searched. */
  public SearchView view() {
    return new SearchView(writer.snapshot(), filters);
  }

  /**
   * The current snapshot, to be searched as if the folder had been {@linkplain #redefine
   * redefined}.
   *
   * @throws IllegalArgumentException if the schema's {@link Schema#fingerprint} is another one
   */
  public SearchView view(Schema other) {
    return view(writer.snapshot(), other, filters);
  }

  static SearchView view(Snapshot now, Schema other, FilterCache filters) {
    requireSameFiles(other, now);
    return new SearchView(
        new Snapshot(other, now.segments(), now.checkpoint(), now.number()), filters);
  }

  static FilterCache newFilters() {
    return new FilterCache(FILTER_CACHE_BYTES);
  }

  static void requireSameFiles(Schema other, Snapshot snapshot) {
    if (!other.fingerprint().equals(snapshot.schema().fingerprint())) {
      throw new IllegalArgumentException("a schema of other files needs another edition");
    }
  }

  /** Searches the current snapshot. */
  public SearchResult search(SearchRequest request) {
    return view().search(request);
  }

  /** Completes a text being typed, from the current snapshot. */
  public List<Suggestion> suggest(SuggestRequest request) {
    return view().suggest(request);
  }

  /** The text with unknown words corrected, or null if there is nothing better. */
  public @Nullable String correct(SuggestRequest request) {
    return view().correct(request, 1);
  }

  /**
   * How a document's score is computed, or why it is not a result; null if there is no such
   * document.
   */
  public @Nullable Explanation explain(SearchRequest request, String key) {
    return view().explain(request, key);
  }

  /** Releases the folder; uncommitted changes are lost. */
  @Override
  public void close() throws IOException {
    writer.close();
  }
}
