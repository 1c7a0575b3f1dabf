/**
 * Counting results by value or range. Start with {@link FacetRequest}; {@link FacetCounter} does
 * the work.
 *
 * <p>Invariant: counts are exact, and a choice in a facet narrows every count except that facet's
 * own.
 */
@NullMarked
package org.mnemex.engine.facet;

import org.jspecify.annotations.NullMarked;
