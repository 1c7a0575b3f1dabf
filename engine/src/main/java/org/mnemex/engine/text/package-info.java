/**
 * Text analysis: from a field value or a query to tokens. Start with {@link Analyser}.
 *
 * <p>Text comes in as a {@code CharSequence}; a tokeniser cuts it into {@link Token}s and pushes
 * each through the token filters into a {@link TokenSink}. Invariant: a token's {@code start} and
 * {@code end} always point into the original text, and positions never go backwards; a filter that
 * removes a token leaves a hole in the positions, so that phrases do not close over it.
 *
 * <p>Analysers are immutable and may be shared between threads.
 */
@NullMarked
package org.mnemex.engine.text;

import org.jspecify.annotations.NullMarked;
