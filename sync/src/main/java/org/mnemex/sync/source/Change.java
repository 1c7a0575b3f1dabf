package org.mnemex.sync.source;

import java.time.Instant;
import java.util.Map;

/**
 * A row that was inserted, updated or deleted. An update of the columns below makes two changes,
 * one with the old and one with the new values.
 *
 * @param table the row's table
 * @param columns the columns by which the row is related to records
 * @param at when it was committed, by the database's clock, in milliseconds
 */
public record Change(String table, Map<String, Object> columns, Instant at, Position position) {}
