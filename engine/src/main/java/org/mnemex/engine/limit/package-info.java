/**
 * Limits of searches. Start with {@link SearchLimits}; {@link Budget} counts what a running search
 * has used of it.
 */
@NullMarked
package org.mnemex.engine.limit;

import org.jspecify.annotations.NullMarked;
