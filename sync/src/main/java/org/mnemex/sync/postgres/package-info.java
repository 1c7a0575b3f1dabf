/**
 * PostgreSQL as a source: changes from the write-ahead log by logical replication, records by
 * set-based queries. Start with {@link PostgresSource}; {@link PostgresSetup} is all that changes
 * anything in somebody's database, and what it makes begins with {@code mnemex_}.
 *
 * <p>Invariant: whoever has been handed changes up to a position and reads records after that sees
 * these changes. The log is ahead of what queries see for a moment, so {@link LogCapture} waits.
 */
@NullMarked
package org.mnemex.sync.postgres;

import org.jspecify.annotations.NullMarked;
