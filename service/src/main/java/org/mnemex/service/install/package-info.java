/**
 * Applies definitions: parse, check, plan, prepare, apply. Start with {@link Installation}.
 *
 * <p>What runs is one immutable {@link Running}, swapped when definitions are applied, so that a
 * request sees one state from beginning to end. Invariant: what cannot work is refused before
 * anything is changed.
 */
@NullMarked
package org.mnemex.service.install;

import org.jspecify.annotations.NullMarked;
