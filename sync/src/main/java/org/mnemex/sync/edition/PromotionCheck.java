package org.mnemex.sync.edition;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.feed.RemovalGuard;

/** Looks at a complete edition before it goes live by itself. */
@FunctionalInterface
public interface PromotionCheck {
  /**
   * Why a person has to decide, in a sentence, or null if nothing speaks against the edition.
   *
   * @param live the one whose place it takes
   */
  @Nullable String objection(Edition filled, Edition live) throws InterruptedException;

  /** Asks this one first, then another. */
  default PromotionCheck then(PromotionCheck other) {
    return (filled, live) -> {
      String objection = objection(filled, live);
      return objection == null ? other.objection(filled, live) : objection;
    };
  }

  /** Objects to an edition with much fewer documents than the live one. */
  static PromotionCheck ofDocuments() {
    return (filled, live) -> {
      long documents = live.folder().snapshot().documents();
      long fewer = documents - filled.folder().snapshot().documents();
      return RemovalGuard.isTooMany(fewer, documents, filled.definition().mostRemoved())
          ? "edition %d has %,d documents less than the live one has (%,d); it is not promoted until somebody agrees"
              .formatted(filled.number(), fewer, documents)
          : null;
    };
  }
}
