/**
 * From an assembled record to a document: picking, cleaning and converting values. Start with
 * {@link DocumentMapper}.
 *
 * <p>A record comes in, a document or an {@link UnmappableRecordException} goes out; nothing is
 * guessed and nothing dropped in silence.
 */
@NullMarked
package org.mnemex.sync.mapping;

import org.jspecify.annotations.NullMarked;
