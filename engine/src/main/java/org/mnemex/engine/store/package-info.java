/**
 * Files: layout, checksums, and the one manifest that says which files are the edition. Start with
 * {@link SegmentLayout} for the bytes and {@link Manifest} for the commit.
 *
 * <p>Invariant: a file is never changed once it has its final name. What a crash may leave behind
 * are files that no manifest names, and those are removed at the next opening. All numbers are
 * little-endian. Nothing outside this package may assume that files are local.
 */
@NullMarked
package org.mnemex.engine.store;

import org.jspecify.annotations.NullMarked;
