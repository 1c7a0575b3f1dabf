/**
 * MariaDB as a source: changes from the binary log, records by set-based queries. Start with {@link
 * MariadbSource}. Nothing is made in the database: the log is read as a replica would.
 *
 * <p>Invariant: whoever has been handed changes up to a position and reads records after that sees
 * these changes. The log is ahead of what queries see for a moment, so {@link BinlogCapture} waits.
 */
@NullMarked
package org.mnemex.sync.mariadb;

import org.jspecify.annotations.NullMarked;
