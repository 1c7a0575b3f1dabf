/**
 * What a document may hold: fields, their types and their uses. Start with {@link Schema}.
 *
 * <p>Invariant: a schema is checked when it is made, so everything behind it may rely on it. An
 * index structure exists exactly where a use needs it.
 */
@NullMarked
package org.mnemex.engine.schema;

import org.jspecify.annotations.NullMarked;
