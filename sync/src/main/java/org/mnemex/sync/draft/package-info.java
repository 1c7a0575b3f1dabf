/**
 * A first definition, proposed from the catalogue and some rows, with a reason on every line. Start
 * with {@link Draft}.
 *
 * <p>Invariant: a draft can be applied unchanged, and columns that look personal are under {@code
 * never}.
 */
@NullMarked
package org.mnemex.sync.draft;

import org.jspecify.annotations.NullMarked;
