/**
 * The flow from a source into one edition: backfill, then live, for ever. Start with {@link Feed}.
 *
 * <p>Changes come in from the source, documents go into the edition. Invariant: a commit's position
 * is never ahead of what was applied, so continuing from it loses nothing; and records are read
 * after the change that made them worth reading, so an older state never overwrites a newer one.
 */
@NullMarked
package org.mnemex.sync.feed;

import org.jspecify.annotations.NullMarked;
