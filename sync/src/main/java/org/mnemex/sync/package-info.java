/**
 * Keeping indexes true to databases. The rooms, in the order data flows: {@code definition} (what
 * is asked for), {@code source} and {@code sqlite} (catalogue, changes, records), {@code mapping}
 * (record to document), {@code feed} (backfill, then live), {@code edition} (what answers).
 */
@NullMarked
package org.mnemex.sync;

import org.jspecify.annotations.NullMarked;
