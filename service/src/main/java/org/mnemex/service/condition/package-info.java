/**
 * Conditions that somebody should know of, and messages about them. What holds now is looked at
 * every few seconds ({@link org.mnemex.service.condition.ConditionChecks}), begins and ends with
 * some patience ({@link org.mnemex.service.condition.HeldConditions}), and is told over channels
 * ({@link org.mnemex.service.condition.Messages}).
 */
@NullMarked
package org.mnemex.service.condition;

import org.jspecify.annotations.NullMarked;
