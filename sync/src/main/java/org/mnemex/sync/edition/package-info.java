/**
 * Editions of an index: filled beside the live one, promoted in one step, retired. Start with
 * {@link Editions}.
 *
 * <p>Invariant: exactly one edition answers at any time, or none while the first is being filled; a
 * query sees one edition throughout.
 */
@NullMarked
package org.mnemex.sync.edition;

import org.jspecify.annotations.NullMarked;
