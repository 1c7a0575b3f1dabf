/**
 * What all readers of a source share, so that it is read once for all of them: the latest changes
 * in a {@link ChangeWindow}, from which each takes at its own position.
 *
 * <p>Invariant: a reader misses nothing. It joins only where everything is at hand that comes after
 * its position, and one that needs what was dropped reads for itself again.
 */
@NullMarked
package org.mnemex.sync.shared;

import org.jspecify.annotations.NullMarked;
