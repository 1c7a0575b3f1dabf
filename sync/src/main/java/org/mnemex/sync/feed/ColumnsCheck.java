package org.mnemex.sync.feed;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.source.PositionLostException;
import org.mnemex.sync.source.ReadColumns;
import org.mnemex.sync.source.SourceUnavailableException;

/**
 * How a feed reacts when tables have changed since its edition was started.
 *
 * <ul>
 *   <li>A column was added: nothing. The next edition includes it.
 *   <li>A column that no field needs was dropped, or a type or the primary key has changed: fill a
 *       new edition.
 *   <li>A table was replaced by another of the same name, or its partitions were attached, detached
 *       or truncated: rows came or went without captured changes, so fill a new edition.
 *   <li>A table or column that the definition needs is gone: a person has to decide. The feed
 *       waits, and the edition keeps answering.
 * </ul>
 */
final class ColumnsCheck {
  private ColumnsCheck() {}

  /**
   * Compares tables with their former state.
   *
   * @return what is read from now on
   * @throws PositionLostException if a new edition has to be filled
   * @throws SourceUnavailableException if a person has to decide
   */
  static ReadColumns check(IndexDefinition definition, ReadColumns before, ReadColumns now)
      throws SourceUnavailableException {
    Map<String, ReadColumns.Table> read = new TreeMap<>();
    for (Map.Entry<String, ReadColumns.Table> entry : before.tables().entrySet()) {
      String name = entry.getKey();
      ReadColumns.Table table = now.tables().get(name);
      if (table == null) {
        throw new SourceUnavailableException(
            "table '%s' is gone; the index keeps its content until the table is back or"
                    .formatted(name)
                + " a definition without it is applied",
            null);
      }
      for (Map.Entry<String, String> column : entry.getValue().types().entrySet()) {
        checkColumn(definition, name, column.getKey(), column.getValue(), table);
      }
      if (!table.key().equals(entry.getValue().key())) {
        throw new PositionLostException("the primary key of table '%s' changed".formatted(name));
      }
      if (!entry.getValue().identity().mayBecome(table.identity())) {
        throw new PositionLostException(
            "table '%s' was replaced, or its partitions were exchanged or truncated"
                .formatted(name));
      }
      read.put(name, entry.getValue().as(table.identity()));
    }
    return new ReadColumns(read);
  }

  private static void checkColumn(
      IndexDefinition definition, String table, String column, String type, ReadColumns.Table now)
      throws SourceUnavailableException {
    String typeNow = now.types().get(column);
    if (typeNow == null) {
      String user = user(definition, table, column);
      if (user != null) {
        throw new SourceUnavailableException(
            "column '%s.%s', which %s needs, is gone; the index keeps its content until"
                    .formatted(table, column, user)
                + " the column is back or a definition without it is applied",
            null);
      }
      throw new PositionLostException("column '%s.%s' was dropped".formatted(table, column));
    }
    if (!typeNow.equals(type)) {
      throw new PositionLostException(
          "column '%s.%s' is now of type %s instead of %s".formatted(table, column, typeNow, type));
    }
  }

  /** What needs a column, or null if nothing does. */
  private static @Nullable String user(IndexDefinition definition, String table, String column) {
    RecordShape shape = definition.shape();
    List<String> names = new ArrayList<>();
    if (table.equals(shape.root())) {
      names.add(column);
      if (shape.key().contains(column)) {
        return "the record's key";
      }
    }
    for (RecordShape.Join join : shape.joins()) {
      if (join.table().equals(table)) {
        names.add(join.name() + "." + column);
        if (join.match().containsKey(column)
            || join.link() != null && join.link().to().containsValue(column)
            || join.order().contains(column)
            || join.order().contains("-" + column)) {
          return "join '" + join.name() + "'";
        }
      }
    }
    for (RecordShape.Join join : shape.joins()) {
      Stream<ColumnRef> refs =
          join.link() == null
              ? join.match().values().stream()
              : join.link().match().values().stream();
      if (refs.anyMatch(ref -> names.contains(ref.toString()))) {
        return "join '" + join.name() + "'";
      }
    }
    for (FieldDefinition field : definition.fields()) {
      if (refs(field).anyMatch(ref -> names.contains(ref.toString()))
          || field.sql() != null && field.sql().contains(column)) {
        return "field '" + field.field().name() + "'";
      }
    }
    return shape.only() != null && shape.only().contains(column) ? "'only'" : null;
  }

  private static Stream<ColumnRef> refs(FieldDefinition field) {
    return Stream.concat(
        Stream.of(field.from(), field.second()).filter(Objects::nonNull),
        field.children().stream().flatMap(ColumnsCheck::refs));
  }
}
