package org.mnemex.service.publish;

import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.publish.store.CountedStore;
import org.mnemex.service.shard.NodeLink;
import org.mnemex.sync.source.Shard;

/**
 * What is published, or followed.
 *
 * @param place where the store is; null if there is none
 * @param role what this process does with it: {@code builder} or {@code search}; null: nothing
 * @param problem why nothing is published or followed now, or null
 * @param turn which run of the installation publishes; null where it is followed
 * @param traffic what this run has used of the store; null if there is none
 * @param shards into how many shards the store is divided; null if it is not
 * @param editions the editions that are published, or followed; with a placement, of the shards
 *     that are here
 * @param builder the builder that a search node asks for news; null: none, it looks into the store
 * @param nodes the other nodes of the placement, by name; null without one
 */
public record StoreView(
    @Nullable String place,
    @Nullable String role,
    @Nullable String problem,
    @Nullable Long turn,
    CountedStore.@Nullable Traffic traffic,
    @Nullable Integer shards,
    List<StoredEdition> editions,
    @Nullable BuilderLink builder,
    @Nullable List<NodeLink> nodes) {
  public StoreView {
    editions = List.copyOf(editions);
  }

  static final StoreView NONE =
      new StoreView(null, null, null, null, null, null, List.of(), null, null);

  /**
   * The builder of a search node.
   *
   * @param address where it is
   * @param problem why it gives no news now, or null
   */
  public record BuilderLink(String address, @Nullable String problem) {}

  /**
   * An edition.
   *
   * @param index name of the index
   * @param shard which shard of the index, from 0; null if it is not divided
   * @param edition number of the edition
   * @param live whether it is the one that answers
   * @param trueAt the moment up to which it includes everything, ISO 8601, UTC; null if unknown
   * @param written when its manifest was written, ISO 8601, UTC
   * @param files how many files it has
   * @param bytes how many bytes they have
   */
  public record StoredEdition(
      String index,
      @Nullable Integer shard,
      int edition,
      boolean live,
      @Nullable String trueAt,
      String written,
      int files,
      long bytes) {
    public StoredEdition {
      Objects.requireNonNull(index, "index");
      Objects.requireNonNull(written, "written");
    }

    static StoredEdition of(String index, Shard shard, EditionManifest manifest, boolean live) {
      return new StoredEdition(
          index,
          shard.isWhole() ? null : shard.number(),
          manifest.state().edition().number(),
          live,
          manifest.state().trueAt(),
          manifest.written(),
          manifest.files().size(),
          manifest.files().stream().mapToLong(PublishedFile::bytes).sum());
    }
  }
}
