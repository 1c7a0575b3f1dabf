package org.mnemex.sync.source;

import java.time.Instant;
import java.util.Map;

/**
 * A row that was inserted, changed or deleted. A change of the columns below makes two of them, one
 * with the old and one with the new values.
 *
 * @param table the row's table
 * @param columns the columns by which the row is related to records
 * @param at when, by the database's clock, in milliseconds
 */
public record Change(String table, Map<String, Object> columns, Instant at, Position position) {}
