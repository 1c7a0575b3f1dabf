package org.mnemex.service.install;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.edition.Edition;

/** Compares an edition's results with the live edition's before an automatic promotion. */
public interface AnswerCheck {
  /** Why the promotion needs approval, in a sentence; null if it does not. */
  @Nullable String objection(Edition filled, Edition live);
}
