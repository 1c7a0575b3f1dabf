package org.mnemex.service.run;

import org.jspecify.annotations.Nullable;
import org.mnemex.sync.edition.Edition;

/** What the scorecards of an index say of an edition that may go live. */
public interface EditionScores {
  /** Why a person has to decide, in a sentence, or null if no scorecard objects. */
  @Nullable String objection(Edition filled, Edition live);
}
