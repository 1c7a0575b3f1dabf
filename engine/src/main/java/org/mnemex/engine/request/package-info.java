/** Requests and results. Start with {@link SearchRequest} and {@link SearchResult}. */
@NullMarked
package org.mnemex.engine.request;

import org.jspecify.annotations.NullMarked;
