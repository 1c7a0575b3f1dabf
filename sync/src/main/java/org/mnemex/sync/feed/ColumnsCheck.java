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
 * What a feed does when the tables are no longer what they were when its edition was begun.
 *
 * <ul>
 *   <li>A column was added: nothing. The next edition has it.
 *   <li>A column that no field needs was dropped, or one has another type or the primary key other
 *       columns: the records have to be read anew, into a new edition.
 *   <li>Another table stands under the name of one, or parts of it were attached, detached or
 *       emptied: their rows came or went without a change that could be followed, so all are read
 *       anew.
 *   <li>A table or a column that the definition needs has gone: a person has to decide. The feed
 *       waits, and the edition goes on answering.
 * </ul>
 */
final class ColumnsCheck {
  private ColumnsCheck() {}

  /**
   * Compares tables with what they were.
   *
   * @return what is read from now on
   * @throws PositionLostException if the records have to be read anew
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
            "table '%s' is no longer there; the index keeps what it has until the table is back or"
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
            "table '%s' is another one than before, or parts of it were exchanged or emptied"
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
            "column '%s.%s', which %s needs, is no longer there; the index keeps what it has until"
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

  /** Who needs a column, or null if nobody does. */
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
