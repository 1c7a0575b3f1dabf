/**
 * Records that come over HTTP instead of from a database: what was pushed is the truth. Start with
 * {@link PushSource}; where it is kept is a {@link PushStore}.
 *
 * <p>Invariant: a record that was accepted is on disk, under a number higher than all before it, so
 * that a feed finds it however often it begins again.
 */
@NullMarked
package org.mnemex.sync.push;

import org.jspecify.annotations.NullMarked;
