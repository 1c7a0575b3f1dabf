/**
 * Completions and corrections. Start with {@link Suggester}.
 *
 * <p>Invariant: suggestions come only from documents that match the request's filter.
 */
@NullMarked
package org.mnemex.engine.suggest;

import org.jspecify.annotations.NullMarked;
