/**
 * What is asked: queries as values, and the two languages that people write them in. Start with
 * {@link Query}; {@link QueryText} reads what people type, {@link FilterText} what developers
 * write.
 *
 * <p>Invariant: a query is plain data; it knows no index, and making one does no work.
 */
@NullMarked
package org.mnemex.engine.query;

import org.jspecify.annotations.NullMarked;
