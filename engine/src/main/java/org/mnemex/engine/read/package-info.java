/**
 * Reading: segments, their dictionaries, postings and columns, and the snapshot over all of them.
 * Start with {@link Snapshot}.
 *
 * <p>Invariant: everything here is immutable and may be read by any number of threads; a cursor
 * belongs to one. Nothing is kept on the heap that grows with the number of documents, except
 * deletions (one bit a document).
 */
@NullMarked
package org.mnemex.engine.read;

import org.jspecify.annotations.NullMarked;
