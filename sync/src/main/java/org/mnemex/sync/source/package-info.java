/**
 * What every kind of database offers: its catalogue, its changes, its records. Start with {@link
 * Source}.
 *
 * <p>Invariant: a position is ordered within its history, and what is read after a position was
 * taken shows at least everything up to it.
 */
@NullMarked
package org.mnemex.sync.source;

import org.jspecify.annotations.NullMarked;
