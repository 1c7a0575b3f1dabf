package org.mnemex.engine.read;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.util.function.IntFunction;

/**
 * The stored parts of documents that searches have shown, as the same ones are shown again and
 * again: to read one from its file, a block of a dozen has to be unpacked. All segments of a
 * process share the memory. Thread-safe.
 */
final class ShownDocuments {
  /** The share of the heap that they may take. */
  private static final int SHARE = 64;

  /** What an entry takes besides its bytes, in bytes; a rough figure. */
  private static final int OVERHEAD = 100;

  private static final Cache<Place, byte[]> ALL =
      Caffeine.newBuilder()
          .maximumWeight(Runtime.getRuntime().maxMemory() / SHARE)
          .weigher((Place place, byte[] bytes) -> bytes.length + OVERHEAD)
          // By those who search: the engine has no threads.
          .executor(Runnable::run)
          .build();

  /**
   * Where a document is.
   *
   * @param segment told from all others of the process by its identity: numbers of segments are
   *     those of one edition
   */
  private record Place(ShownDocuments segment, int doc) {}

  /**
   * The stored part of a document of this segment, not to be changed.
   *
   * @param reading reads it
   */
  byte[] get(int doc, IntFunction<byte[]> reading) {
    return ALL.get(new Place(this, doc), place -> reading.apply(place.doc));
  }
}
