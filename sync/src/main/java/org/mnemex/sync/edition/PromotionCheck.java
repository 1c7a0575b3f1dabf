package org.mnemex.sync.edition;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.feed.RemovalGuard;

/** A check before an automatic promotion. */
@FunctionalInterface
public interface PromotionCheck {
  /**
   * Why the promotion needs approval, in a sentence; null if it does not.
   *
   * @param live the edition that it replaces
   */
  @Nullable String objection(Edition filled, Edition live) throws InterruptedException;

  /** This check, then another. */
  default PromotionCheck then(PromotionCheck other) {
    return (filled, live) -> {
      String objection = objection(filled, live);
      return objection == null ? other.objection(filled, live) : objection;
    };
  }

  /** Objects to an edition with far fewer documents than the live one. */
  static PromotionCheck ofDocuments() {
    return (filled, live) -> {
      long documents = live.folder().snapshot().documents();
      long fewer = documents - filled.folder().snapshot().documents();
      return RemovalGuard.isTooMany(fewer, documents, filled.definition().mostRemoved())
          ? "edition %d has %,d fewer documents than the live one (%,d); it is not promoted until somebody approves"
              .formatted(filled.number(), fewer, documents)
          : null;
    };
  }
}
