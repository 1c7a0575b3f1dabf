package org.mnemex.engine.codec;

import org.mnemex.engine.store.Bytes;

/**
 * A Bloom filter over the keys of a segment (Bloom, CACM 1970) in blocks of one cache line (Putze,
 * Sanders and Singler, "Cache-, Hash- and Space-Efficient Bloom Filters", WEA 2007). Six bits a key
 * in a block of 512, ten bits of filter a key, so that about one stranger in eighty passes.
 *
 * <p>The hash is FNV-1a over the key's bytes (64 bits, offset basis 14695981039346656037, prime
 * 1099511628211), mixed by {@code h ^= h >>> 33; h *= 0xFF51AFD7ED558CCD; h ^= h >>> 33}. Block:
 * the high 32 bits of h times the number of blocks, divided by 2^32. Bit i of six: bits 9i to 9i+8
 * of {@code h × 0x9E3779B97F4A7C15}, counted from the low end of the block's first byte.
 */
public final class KeyFilter {
  private static final int BITS_PER_KEY = 10;
  private static final int PROBES = 6;
  private static final int BLOCK_BYTES = 64;

  private KeyFilter() {}

  /** Collects keys. */
  public static final class Builder {
    private final long blocks;
    private final byte[] bits;

    /** A filter for a number of keys. */
    public Builder(int count) {
      blocks = Math.max(1, ((long) count * BITS_PER_KEY + 511) / 512);
      bits = new byte[Math.toIntExact(blocks * BLOCK_BYTES)];
    }

    public void add(byte[] key) {
      long hash = hash(key);
      int block = (int) block(hash, blocks);
      long probes = hash * 0x9E3779B97F4A7C15L;
      for (int i = 0; i < PROBES; i++) {
        int bit = (int) (probes >>> 9 * i) & 511;
        bits[block + (bit >>> 3)] |= (byte) (1 << (bit & 7));
      }
    }

    public byte[] bytes() {
      return bits;
    }
  }

  /**
   * Whether a key may be in the filter.
   *
   * @param hash that of the key
   */
  public static boolean mayContain(Bytes filter, long hash) {
    long block = block(hash, filter.length() / BLOCK_BYTES);
    long probes = hash * 0x9E3779B97F4A7C15L;
    for (int i = 0; i < PROBES; i++) {
      int bit = (int) (probes >>> 9 * i) & 511;
      if ((filter.byteAt(block + (bit >>> 3)) & 1 << (bit & 7)) == 0) {
        return false;
      }
    }
    return true;
  }

  private static long block(long hash, long blocks) {
    return ((hash >>> 32) * blocks >>> 32) * BLOCK_BYTES;
  }

  /** The hash of a key, for the filters of all segments. */
  public static long hash(byte[] key) {
    long hash = 0xCBF29CE484222325L;
    for (byte b : key) {
      hash = (hash ^ b & 0xFF) * 0x100000001B3L;
    }
    hash ^= hash >>> 33;
    hash *= 0xFF51AFD7ED558CCDL;
    return hash ^ hash >>> 33;
  }
}
