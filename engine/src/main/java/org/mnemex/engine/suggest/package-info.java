/**
 * What people may be about to type, or may have meant. Start with {@link Suggester}.
 *
 * <p>Typed text and a snapshot come in, values of fields with the use {@code suggest} go out.
 * Invariant: nothing is suggested from a document that the request's filter does not let through.
 */
@NullMarked
package org.mnemex.engine.suggest;

import org.jspecify.annotations.NullMarked;
