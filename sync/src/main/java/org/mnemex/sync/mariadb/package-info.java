/**
 * MariaDB as a source: changes from the binary log, records by set-based queries. Start with {@link
 * MariadbSource}. Nothing is created in the database: the log is read like a replica does.
 *
 * <p>Invariant: a reader that has received changes up to a position sees these changes in records
 * it reads afterwards. The log is ahead of queries for a moment, so {@link BinlogCapture} waits.
 */
@NullMarked
package org.mnemex.sync.mariadb;

import org.jspecify.annotations.NullMarked;
