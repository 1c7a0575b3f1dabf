/**
 * Counting results by value or range. Start with {@link FacetRequest}; {@link FacetCounter} does
 * the work.
 *
 * <p>Sets of documents come in from the search, counts go out. Invariant: counts are exact, and
 * what is chosen in a facet narrows every count but that facet's own.
 */
@NullMarked
package org.mnemex.engine.facet;

import org.jspecify.annotations.NullMarked;
