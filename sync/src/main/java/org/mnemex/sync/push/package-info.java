/**
 * Records that are pushed over HTTP instead of read from a database. Start with {@link PushSource};
 * a {@link PushStore} keeps them.
 *
 * <p>Invariant: an accepted record is on disk, with a number higher than all before it, so that a
 * feed always finds it.
 */
@NullMarked
package org.mnemex.sync.push;

import org.jspecify.annotations.NullMarked;
