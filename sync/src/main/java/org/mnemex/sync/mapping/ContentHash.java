package org.mnemex.sync.mapping;

import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;

/**
 * The hash by which a record and its document are compared.
 *
 * @param bits the first 8 bytes of the SHA-256 (FIPS 180-4) of the stored record, big-endian
 */
public record ContentHash(long bits) {
  static ContentHash of(byte[] stored) {
    try {
      return new ContentHash(
          ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(stored)).getLong());
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
