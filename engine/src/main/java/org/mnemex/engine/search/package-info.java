/**
 * Running queries: matching, scoring, the top of the order. Start with {@link Searcher}.
 *
 * <p>A snapshot and a request come in, a result goes out. A query becomes a {@link Plan} for the
 * edition, and for each segment a {@link Matcher} (what scores) or a set of documents (what only
 * filters). {@link TopSearch} finds the best results without scoring all. Invariant: the score of a
 * document depends on the edition, not on the segment that it happens to be in.
 */
@NullMarked
package org.mnemex.engine.search;

import org.jspecify.annotations.NullMarked;
