package org.mnemex.service.install;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.edition.Edition;

/** Looks at what an edition answers before it goes live by itself. */
public interface AnswerCheck {
  /** Why a person has to decide, in a sentence, or null if nothing speaks against it. */
  @Nullable String objection(Edition filled, Edition live);
}
