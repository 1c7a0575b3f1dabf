/**
 * PostgreSQL as a source: changes from the write-ahead log by logical replication, records by
 * set-based queries. Start with {@link PostgresSource}; only {@link PostgresSetup} changes anything
 * in the database, and names everything {@code mnemex_…}.
 *
 * <p>Invariant: a reader that has received changes up to a position sees these changes in records
 * it reads afterwards. The log is ahead of queries for a moment, so {@link LogReceiver} waits.
 *
 * <p>The way of a change: {@link LogStream} and {@link LogDecoder}, both used by {@link
 * LogReceiver}, then {@link org.mnemex.sync.shared.ChangeWindow}, and from there the {@link
 * LogCapture} of each reader.
 */
@NullMarked
package org.mnemex.sync.postgres;

import org.jspecify.annotations.NullMarked;
