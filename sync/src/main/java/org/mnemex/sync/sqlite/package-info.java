/**
 * SQLite as a source: journal by triggers, records by set-based queries. Start with {@link
 * SqliteSource}.
 *
 * <p>Invariant: only {@link SqliteJournal} changes anything in the database, and names everything
 * {@code mnemex_…}. Columns under {@code never} appear in no statement.
 */
@NullMarked
package org.mnemex.sync.sqlite;

import org.jspecify.annotations.NullMarked;
