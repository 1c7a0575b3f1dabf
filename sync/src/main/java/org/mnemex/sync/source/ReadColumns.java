package org.mnemex.sync.source;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.mnemex.sync.definition.RecordShape;

/**
 * The columns that are read for a record's shape. An edition keeps its first set: with a later
 * column, new records would differ from all old ones.
 *
 * @param tables by name
 */
public record ReadColumns(Map<String, Table> tables) {
  /**
   * The columns that are read from a table.
   *
   * @param types types by column name, in the database's words
   * @param key columns of the primary key, in order
   * @param identity the identity of the table
   */
  public record Table(Map<String, String> types, List<String> key, TableIdentity identity) {
    public Table {
      // For editions that are older than this information.
      identity = identity == null ? TableIdentity.UNKNOWN : identity;
    }

    /** The same with another identity. */
    public Table as(TableIdentity other) {
      return new Table(types, key, other);
    }
  }

  /**
   * All columns that a shape may read: those not under never, and bytes only of files.
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
        Map<String, String> types = new LinkedHashMap<>();
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

  /** The columns that are read from a table, in order. */
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
