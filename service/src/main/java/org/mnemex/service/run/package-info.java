/**
 * What is running: sources, analysers, indexes with their editions, endpoints. Start with {@link
 * Installation}.
 *
 * <p>All of it is one immutable {@link Running}, swapped when definitions are applied, so that a
 * request sees one state from beginning to end. Invariant: what cannot work is refused before
 * anything is changed.
 */
@NullMarked
package org.mnemex.service.run;

import org.jspecify.annotations.NullMarked;
