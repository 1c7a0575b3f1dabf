/**
 * Journals on servers: tables in the source database that triggers write changes to, and the reader
 * that follows them. Start with {@link JournalCapture}; what is special about a kind of server is a
 * {@link ServerJournal}.
 *
 * <p>Invariant: a position is below every change that was not handed out, also of transactions that
 * are not committed yet, so continuing from it loses nothing.
 */
@NullMarked
package org.mnemex.sync.journal;

import org.jspecify.annotations.NullMarked;
