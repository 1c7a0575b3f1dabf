/**
 * Marking what was found in the text of a result. Start with {@link Highlighter}.
 *
 * <p>A stored text and the query come in, escaped HTML with marks goes out. Invariant: what goes
 * out without its marks is the escaped text, so a value of the database can never become markup.
 */
@NullMarked
package org.mnemex.engine.highlight;

import org.jspecify.annotations.NullMarked;
