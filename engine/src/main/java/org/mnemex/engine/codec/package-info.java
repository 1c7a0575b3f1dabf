/**
 * How numbers become bytes: packed blocks for postings, packed columns, length codes, the filter of
 * keys. Start with {@link PackedBlock} and {@link PackedNumbers}.
 *
 * <p>Nothing here knows what the numbers mean. Invariant: what a writer of this package wrote, its
 * reader gives back exactly ({@link LengthCode} says how it rounds).
 */
@NullMarked
package org.mnemex.engine.codec;

import org.jspecify.annotations.NullMarked;
