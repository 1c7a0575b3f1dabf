package org.mnemex.sync.mapping;

import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import org.apache.commons.codec.digest.MurmurHash3;

/**
 * The hash by which a record and its document are compared. It tells records apart that differ by
 * chance, with a chance of 2^-64 to miss one; it does not withstand somebody who looks for two
 * records of the same hash.
 *
 * @param bits the first 64 of the 128 bits of the stored record's MurmurHash3 (variant x64, seed 0)
 */
public record ContentHash(long bits) {
  static ContentHash of(byte[] stored) {
    return new ContentHash(MurmurHash3.hash128x64(stored)[0]);
  }

  /**
   * The hash that documents of earlier builds have: the first 8 bytes of the SHA-256 (FIPS 180-4)
   * of the stored record, big-endian.
   */
  static ContentHash former(byte[] stored) {
    try {
      return new ContentHash(
          ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(stored)).getLong());
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
