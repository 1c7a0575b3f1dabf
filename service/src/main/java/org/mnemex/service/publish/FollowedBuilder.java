package org.mnemex.service.publish;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.Follower;
import org.mnemex.publish.Follower.Offer;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.publish.file.FilePool;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.sync.source.Shard;

/** What one builder publishes, and what of it is here. Used by one thread. */
final class FollowedBuilder implements AutoCloseable {
  private final Shard shard;
  private final ObjectStore store;
  private final FilePool pool;
  private final Follower follower;
  private final Clock clock;
  private volatile @Nullable Offer taken;
  private @Nullable Offer fetched;

  /** Whether this node is to have what it builds, and not only to know of it. */
  private boolean isHere = true;

  /** When something new was seen, by the clock of this machine. */
  private volatile Instant news;

  /**
   * @param shard what it builds
   * @param store what it writes
   * @param cache where all that is followed of it is kept
   * @param limitBytes how many bytes may be kept
   */
  FollowedBuilder(
      Shard shard, ObjectStore store, Path cache, long limitBytes, Bandwidth bandwidth, Clock clock)
      throws IOException {
    this.shard = shard;
    this.store = store;
    this.pool = new FilePool(cache.resolve("files"), store, limitBytes, bandwidth, clock);
    this.follower = new Follower(store, cache);
    this.clock = clock;
    this.news = clock.instant();
  }

  Shard shard() {
    return shard;
  }

  FilePool pool() {
    return pool;
  }

  /** What was followed when this process last ran; null if it is not all here. */
  @Nullable Offer remembered() throws IOException {
    Offer remembered = follower.remembered();
    if (remembered == null || isHere && !pool.hasAll(files(remembered))) {
      return null;
    }
    fetched = isHere ? remembered : null;
    return remembered;
  }

  /**
   * What it offers now.
   *
   * @param written the names of objects that may have been written since the last look; null: any
   * @throws IOException if the store cannot be reached, or nothing is published
   */
  Offer look(@Nullable Set<String> written) throws IOException {
    Offer offer = follower.look(written);
    if (offer == null) {
      throw new IOException("nothing is published in the store %s yet".formatted(store.place()));
    }
    if (!offer.equals(taken)) {
      news = clock.instant();
    }
    return offer;
  }

  /** Says whether this node is to have what it builds, from now on. */
  void here(boolean has) {
    isHere = has;
    fetched = has ? fetched : null;
  }

  /** Fetches what is missing of an offer, if it is to be here. */
  void fetch(Offer offer) throws IOException {
    if (isHere && !offer.equals(fetched)) {
      Offer before = taken;
      pool.fetch(files(offer), before == null ? List.of() : files(before));
      fetched = offer;
    }
  }

  /** Fetches what is missing of an offer, or has changed on the disk. */
  void mend(Offer offer) throws IOException {
    if (!isHere) {
      return;
    }
    pool.removeDamaged(files(offer));
    pool.fetch(files(offer), List.of());
  }

  private static List<PublishedFile> files(Offer offer) {
    return offer.editions().stream().map(EditionManifest::files).flatMap(List::stream).toList();
  }

  /** Notes what is searched. */
  void took(Offer offer) {
    taken = offer;
  }

  /** Notes what to begin with after a restart. */
  void remember(Offer offer) throws IOException {
    follower.remember(offer);
  }

  /** What is searched; null: nothing yet. */
  @Nullable Offer taken() {
    return taken;
  }

  /** When something new was seen. */
  Instant news() {
    return news;
  }

  @Override
  public void close() {
    pool.close();
  }
}
