package org.mnemex.sync.source;

import java.nio.charset.StandardCharsets;
import java.util.Collection;
import java.util.List;
import org.apache.commons.codec.digest.MurmurHash3;

/**
 * The part of an index's records that is built here, where several builders share one index. Which
 * shard a record belongs to depends on its key alone: the 32-bit MurmurHash3 of its text in UTF-8
 * falls into one of as many equal ranges as there are shards.
 *
 * @param number which shard, from 0
 * @param of how many shards there are, from 1
 */
public record Shard(int number, int of) {
  /** All records. */
  public static final Shard WHOLE = new Shard(0, 1);

  public Shard {
    if (of < 1 || number < 0 || number >= of) {
      throw new IllegalArgumentException(
          "there is no shard %d of %d; shards are numbered from 0".formatted(number, of));
    }
  }

  /** Whether it has all records. */
  public boolean isWhole() {
    return of == 1;
  }

  /** Whether a record belongs to it. */
  public boolean has(RecordKey key) {
    return isWhole() || number(key.text(), of) == number;
  }

  /** Those of some keys that belong to it. */
  public List<RecordKey> own(Collection<RecordKey> keys) {
    return keys.stream().filter(this::has).toList();
  }

  /**
   * The number of the shard that a record belongs to.
   *
   * @param key text of its key
   * @param shards how many there are
   */
  public static int number(String key, int shards) {
    int hash = MurmurHash3.hash32x86(key.getBytes(StandardCharsets.UTF_8));
    return (int) (Integer.toUnsignedLong(hash) * shards >>> Integer.SIZE);
  }

  /** As people write it, such as {@code 0 of 4}. */
  @Override
  public String toString() {
    return number + " of " + of;
  }
}
