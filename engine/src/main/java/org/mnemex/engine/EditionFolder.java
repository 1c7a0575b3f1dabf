package org.mnemex.engine;

import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.FolderInUseException;
import org.mnemex.engine.error.NewerFormatException;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.limit.SearchLimits;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.Explanation;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.search.Explainer;
import org.mnemex.engine.search.FilterCache;
import org.mnemex.engine.search.Searcher;
import org.mnemex.engine.search.SimilarTexts;
import org.mnemex.engine.suggest.Correction;
import org.mnemex.engine.suggest.SuggestRequest;
import org.mnemex.engine.suggest.Suggester;
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
  private static final long MEMORY_BUDGET_BYTES = 64L << 20;

  private static final long FILTER_CACHE_BYTES = 16L << 20;

  private final EditionWriter writer;
  private final FilterCache filters = new FilterCache(FILTER_CACHE_BYTES);

  private EditionFolder(EditionWriter writer) {
    this.writer = writer;
  }

  /**
   * Opens the edition in a folder, or makes an empty one.
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

  /** Why manifests were passed over at the opening; an older one was taken then. */
  public List<String> passedOver() {
    return writer.passedOver();
  }

  /**
   * Takes another schema, whose files look the same, from the next search on.
   *
   * @throws IllegalArgumentException if its {@link Schema#fingerprint} is another one
   */
  public void redefine(Schema schema) {
    writer.redefine(schema);
  }

  /** Adds a document, in place of an earlier one of the same key. */
  public void put(Document document) throws IOException {
    writer.put(document);
  }

  /** Removes the document of a key; whether there was one. */
  public boolean delete(String key) {
    return writer.delete(key);
  }

  /** Makes what was put and deleted visible, as of {@code checkpoint}. */
  public Snapshot refresh(Checkpoint checkpoint) throws IOException {
    return writer.refresh(checkpoint);
  }

  /** Makes what is visible durable, together with its checkpoint. */
  public void commit() throws IOException {
    writer.commit();
  }

  /** Does one piece of merging; returns the documents copied, 0 if there was nothing to do. */
  public int mergeStep() throws IOException {
    return writer.mergeStep();
  }

  /** Merges everything into one segment without deletions; returns the documents copied. */
  public int compact() throws IOException {
    return writer.compact();
  }

  /**
   * Compares every byte with its checksums.
   *
   * @throws DamagedFileException naming the first file that has changed
   */
  public void verify() {
    writer.verify();
  }

  /** How often something was too much for one document, since opening; its search was cut. */
  public long cuts() {
    return writer.cuts();
  }

  /** The edition as it is now. */
  public Snapshot snapshot() {
    return writer.snapshot();
  }

  /** Searches the edition as it is now. */
  public SearchResult search(SearchRequest request) {
    return Searcher.search(writer.snapshot(), request, filters);
  }

  /** Completes what is being typed, from the edition as it is now. */
  public List<Suggestion> suggest(SuggestRequest request) {
    return Suggester.suggest(writer.snapshot(), request, filters);
  }

  /** The text with words corrected that cannot be found, or null if there is nothing better. */
  public @Nullable String correct(SuggestRequest request) {
    return correct(request, 1);
  }

  /**
   * The text with words corrected that are in too few documents, or null if there is nothing
   * better.
   *
   * @param least a word that stands in so many documents is what was meant, from 1
   */
  public @Nullable String correct(SuggestRequest request, int least) {
    return Correction.of(writer.snapshot(), request, least, filters);
  }

  /**
   * A query for what is similar to some texts.
   *
   * @param fields weight by name of a text field
   * @param texts what is compared, by field
   * @param least in how many documents a term must stand: 2 if the texts are of one of them
   * @throws QueryRefusedException if a field cannot be searched
   */
  public Query similar(
      Map<String, Double> fields, Map<String, List<String>> texts, int least, SearchLimits limits) {
    return SimilarTexts.query(writer.snapshot(), fields, texts, least, limits);
  }

  /** How a document's score comes about, or why it is no result; null if there is none. */
  public @Nullable Explanation explain(SearchRequest request, String key) {
    return Explainer.explain(writer.snapshot(), request, key);
  }

  /** Gives the folder back; what was not committed is lost. */
  @Override
  public void close() throws IOException {
    writer.close();
  }
}
