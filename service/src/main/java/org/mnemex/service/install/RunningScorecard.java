package org.mnemex.service.install;

import org.mnemex.service.definition.ScorecardDefinition;

/** A scorecard and the version of its definition. */
public record RunningScorecard(ScorecardDefinition definition, int version) {}
