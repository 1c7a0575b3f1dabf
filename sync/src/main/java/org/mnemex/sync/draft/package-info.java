/**
 * A definition to begin with: proposed from the catalogue and some rows, every line with its
 * reason. Start with {@link Draft}.
 *
 * <p>Invariant: what is proposed can be applied as it is, and columns that look personal stand
 * under {@code never}.
 */
@NullMarked
package org.mnemex.sync.draft;

import org.jspecify.annotations.NullMarked;
