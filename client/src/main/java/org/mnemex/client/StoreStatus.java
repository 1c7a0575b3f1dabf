package org.mnemex.client;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What a service publishes for other machines, or follows.
 *
 * @param place where the store is; null if there is none
 * @param role what the service does with it: {@code builder} or {@code search}; null: nothing
 * @param problem why nothing is published or followed now, or null
 * @param turn which run of the installation publishes; null where it is followed
 * @param traffic what this run has used of the store; null if there is none
 * @param shards into how many shards the store is divided; null if it is not
 * @param editions the editions that are published, or followed; of a node that shares shards with
 *     others, of those that it has
 * @param builder the builder that a search node asks for news; null if it asks nobody
 * @param nodes the other nodes that share the shards, by name; null if this one has all
 */
public record StoreStatus(
    @Nullable String place,
    @Nullable String role,
    @Nullable String problem,
    @Nullable Long turn,
    @Nullable Traffic traffic,
    @Nullable Integer shards,
    List<Edition> editions,
    @Nullable BuilderLink builder,
    @Nullable List<Node> nodes) {

  /**
   * Another search node.
   *
   * @param name what it is called
   * @param address where it is
   * @param shards which it is to have, from 0
   * @param problem why it does not answer now, or null
   */
  public record Node(String name, String address, List<Integer> shards, @Nullable String problem) {}

  /**
   * The builder of a search node.
   *
   * @param address where it is
   * @param problem why it gives no news now, or null
   */
  public record BuilderLink(String address, @Nullable String problem) {}

  /**
   * What is used of a store.
   *
   * @param requests how many calls were made
   * @param readBytes how many bytes of objects were read
   * @param writtenBytes how many bytes of objects were written
   */
  public record Traffic(long requests, long readBytes, long writtenBytes) {}

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
  public record Edition(
      String index,
      @Nullable Integer shard,
      int edition,
      boolean live,
      @Nullable String trueAt,
      String written,
      int files,
      long bytes) {}
}
