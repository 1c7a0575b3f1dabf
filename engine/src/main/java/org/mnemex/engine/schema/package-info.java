/**
 * The fields of documents, their types and uses. Start with {@link Schema}.
 *
 * <p>Invariant: a schema is checked when it is created. An index structure exists exactly where a
 * use needs it.
 */
@NullMarked
package org.mnemex.engine.schema;

import org.jspecify.annotations.NullMarked;
