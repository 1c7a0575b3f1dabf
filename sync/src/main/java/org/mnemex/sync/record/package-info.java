/**
 * Reads records from SQL databases with a few set-based queries for many records. Start with {@link
 * SqlSource}.
 *
 * <p>Invariant: all queries of one read see one state of the database, and columns listed under
 * {@code never} appear in no statement. The database alone decides whether two values are equal, by
 * its collations.
 */
@NullMarked
package org.mnemex.sync.record;

import org.jspecify.annotations.NullMarked;
