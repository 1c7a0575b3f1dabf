/**
 * The interface of all kinds of sources: catalogue, changes, records. Start with {@link Source}.
 *
 * <p>Invariant: positions are ordered within a history, and reads after a position was taken
 * include everything up to it.
 */
@NullMarked
package org.mnemex.sync.source;

import org.jspecify.annotations.NullMarked;
