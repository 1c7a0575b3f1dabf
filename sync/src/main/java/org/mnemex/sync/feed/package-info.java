/**
 * The flow from a source into one edition: a backfill, then live changes. Start with {@link Feed}.
 *
 * <p>Invariant: a commit's position is never ahead of applied changes, so continuing from it loses
 * nothing; and records are read after the change that affects them, so an older state never
 * overwrites a newer one.
 */
@NullMarked
package org.mnemex.sync.feed;

import org.jspecify.annotations.NullMarked;
