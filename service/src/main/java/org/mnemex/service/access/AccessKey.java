package org.mnemex.service.access;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * A key. Its secret is nowhere; a hash is stored.
 *
 * @param id short identifier, part of the key's text
 * @param name what people call it
 * @param right what it allows
 * @param scope limits within the right
 * @param created when it was created
 * @param expires when it stops working; null for never
 * @param lastUsed when it was last used, to the minute; null if never
 * @param revoked when it was revoked; null if it was not
 */
public record AccessKey(
    String id,
    String name,
    Right right,
    Scope scope,
    Instant created,
    @Nullable Instant expires,
    @Nullable Instant lastUsed,
    @Nullable Instant revoked) {

  /** Whether it works at a moment. */
  public boolean worksAt(Instant now) {
    return revoked == null && (expires == null || now.isBefore(expires));
  }

  /** Its state at a moment: active, expired or revoked. */
  public String stateAt(Instant now) {
    return revoked != null ? "revoked" : worksAt(now) ? "active" : "expired";
  }
}
