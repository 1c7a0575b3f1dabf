package org.mnemex.client;

import java.util.List;

/**
 * A table of a source.
 *
 * @param view whether it is a view, whose changes cannot be followed
 * @param key columns of the primary key, in order
 */
public record SourceTable(String name, boolean view, List<Column> columns, List<String> key) {
  /** A column, with its type as the database calls it. */
  public record Column(String name, String type, boolean binary) {}
}
