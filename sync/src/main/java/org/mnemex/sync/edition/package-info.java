/**
 * Editions of an index: filled beside the live one, promoted in one step, retired. Start with
 * {@link Editions}.
 *
 * <p>Invariant: at every moment exactly one edition answers, or none while the first one is being
 * filled; a query sees one edition from beginning to end.
 */
@NullMarked
package org.mnemex.sync.edition;

import org.jspecify.annotations.NullMarked;
