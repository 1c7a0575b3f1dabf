/**
 * From an assembled record to a document: picking, cleaning and converting values. Start with
 * {@link DocumentMapper}.
 *
 * <p>Turns a record into a document or an {@link UnmappableRecordException}; guesses nothing and
 * drops nothing silently.
 */
@NullMarked
package org.mnemex.sync.mapping;

import org.jspecify.annotations.NullMarked;
