package org.mnemex.sync.feed;

/** Too many records are in quarantine: their definition must be wrong. */
final class QuarantineFullException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  QuarantineFullException(int limit, String key, String reason) {
    super(
        "%,d records are in quarantine, and record '%s' would be the next one (%s). Apply a definition that they fit"
            .formatted(limit, key, reason));
  }
}
