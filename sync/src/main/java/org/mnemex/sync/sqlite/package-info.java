/**
 * SQLite as a source: journal by triggers, records by set-based queries. Start with {@link
 * SqliteSource}.
 *
 * <p>Invariant: nothing in somebody's database is changed but by {@link SqliteJournal}, and what it
 * makes begins with {@code mnemex_}. Columns listed under {@code never} appear in no statement.
 */
@NullMarked
package org.mnemex.sync.sqlite;

import org.jspecify.annotations.NullMarked;
