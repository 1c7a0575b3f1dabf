/**
 * What is asked of an edition and what it answers: start with {@link SearchRequest} and {@link
 * SearchResult}.
 */
@NullMarked
package org.mnemex.engine.request;

import org.jspecify.annotations.NullMarked;
