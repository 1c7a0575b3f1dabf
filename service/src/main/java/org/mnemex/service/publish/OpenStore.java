package org.mnemex.service.publish;

import org.mnemex.publish.Division;
import org.mnemex.publish.Signatures;
import org.mnemex.publish.SignedStore;
import org.mnemex.publish.store.CountedStore;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.publish.store.PrefixedStore;
import org.mnemex.sync.source.Shard;

/** The store of the settings, as a whole and by shards. */
final class OpenStore implements AutoCloseable {
  private final CountedStore counted;
  private final Signatures signatures;
  private final ObjectStore whole;

  OpenStore(ObjectStore store, Signatures signatures) {
    this.counted = new CountedStore(store);
    this.signatures = signatures;
    this.whole = new SignedStore(counted, signatures);
  }

  /** All of it. */
  ObjectStore whole() {
    return whole;
  }

  /** What the builder of a shard writes, or all of it if it is not divided. */
  ObjectStore of(Shard shard) {
    if (shard.isWhole()) {
      return whole;
    }
    String prefix = Division.prefix(shard.number());
    return new SignedStore(new PrefixedStore(counted, prefix), signatures, prefix);
  }

  /** Where it is, for people. */
  String place() {
    return counted.place();
  }

  /** What this run has used of it. */
  CountedStore.Traffic traffic() {
    return counted.traffic();
  }

  @Override
  public void close() {
    counted.close();
  }
}
