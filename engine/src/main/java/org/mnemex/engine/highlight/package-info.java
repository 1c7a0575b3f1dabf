/**
 * Marking what was found in the text of a result. Start with {@link Highlighter}.
 *
 * <p>Invariant: the output without its marks is the escaped text, so a database value can never
 * become markup.
 */
@NullMarked
package org.mnemex.engine.highlight;

import org.jspecify.annotations.NullMarked;
