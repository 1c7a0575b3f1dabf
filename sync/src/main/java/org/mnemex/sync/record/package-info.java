/**
 * Reads records from SQL databases: a few set-based queries for many records, none for each. Start
 * with {@link SqlSource}.
 *
 * <p>Invariant: all queries of one read see one state of the database, and columns listed under
 * {@code never} appear in no statement. Whether two values are equal is always for the database to
 * say, as its collations know.
 */
@NullMarked
package org.mnemex.sync.record;

import org.jspecify.annotations.NullMarked;
