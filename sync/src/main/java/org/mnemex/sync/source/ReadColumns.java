package org.mnemex.sync.source;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.mnemex.sync.definition.RecordShape;

/**
 * What is read of the tables of a record's shape. An edition keeps to what it began with: a column
 * that is added later would make all its records differ from those that are read after it.
 *
 * @param tables by name
 */
public record ReadColumns(Map<String, Table> tables) {
  /**
   * What is read of a table.
   *
   * @param types of the columns, by name, as the database calls them
   * @param key columns of the primary key, in order
   * @param identity what tells it from another table of the same name
   */
  public record Table(Map<String, String> types, List<String> key, TableIdentity identity) {
    public Table {
      // Of editions that were begun before it was noted.
      identity = identity == null ? TableIdentity.UNKNOWN : identity;
    }

    /** The same with another identity. */
    public Table as(TableIdentity other) {
      return new Table(types, key, other);
    }
  }

  /**
   * All that a shape may read: all columns but what stands under never, and bytes only of files.
   *
   * @param identities of its tables, by name, as far as they are known
   */
  public static ReadColumns of(
      RecordShape shape, Catalogue catalogue, Map<String, TableIdentity> identities) {
    Set<String> names = new TreeSet<>(Set.of(shape.root()));
    shape.joins().forEach(join -> names.add(join.table()));
    Map<String, Table> tables = new TreeMap<>();
    for (String name : names) {
      Catalogue.Table table = catalogue.table(name);
      if (table != null) {
        Map<String, String> types = new java.util.LinkedHashMap<>();
        for (Catalogue.Column column : table.columns()) {
          String full = name + "." + column.name();
          if ((!column.binary() || shape.files().contains(full)) && !shape.never().contains(full)) {
            types.put(column.name(), column.type());
          }
        }
        tables.put(
            name,
            new Table(types, table.key(), identities.getOrDefault(name, TableIdentity.UNKNOWN)));
      }
    }
    return new ReadColumns(tables);
  }

  /** The columns that are read of a table, in its order. */
  public List<String> columns(String table) {
    Table found = tables.get(table);
    return found == null ? List.of() : List.copyOf(found.types.keySet());
  }

  /** The primary key of a table; empty if it has none. */
  public List<String> key(String table) {
    Table found = tables.get(table);
    return found == null ? List.of() : found.key;
  }
}
