/**
 * Queries as values, and the two languages in which people write them. Start with {@link Query};
 * {@link QueryText} parses what people type, {@link FilterText} what developers write.
 *
 * <p>Invariant: a query is plain data that knows no index.
 */
@NullMarked
package org.mnemex.engine.query;

import org.jspecify.annotations.NullMarked;
