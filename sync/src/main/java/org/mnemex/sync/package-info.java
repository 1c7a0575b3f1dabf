/**
 * Keeping indexes true to databases. The rooms, in the order data flows: {@code definition} (what
 * is asked for), {@code source} (catalogue, changes, records), {@code record} (records of all SQL
 * databases), {@code postgres}, {@code mariadb}, {@code sqlite}, {@code journal} and {@code push}
 * (the kinds), {@code draft} (a definition to begin with), {@code extract} and {@code mapping}
 * (record to document), {@code feed} (backfill, then live), {@code edition} (what answers).
 */
@NullMarked
package org.mnemex.sync;

import org.jspecify.annotations.NullMarked;
