package org.mnemex.sync.feed;

import java.util.Collection;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
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
 *   <li>A table or column that the definition needs was not there when the edition was started,
 *       such as a table that was being renamed: fill a new edition.
 * </ul>
 */
final class ColumnsCheck {
  private final IndexDefinition definition;

  /** What needs a column, by table and column. */
  private final Map<String, Map<String, String>> users = new TreeMap<>();

  private ColumnsCheck(IndexDefinition definition) {
    this.definition = definition;
    RecordShape shape = definition.shape();
    if (shape.root().isEmpty()) {
      // Pushed records have no tables.
      return;
    }
    shape.key().forEach(column -> need(shape.root(), column, "the record's key"));
    for (RecordShape.Join join : shape.joins()) {
      String user = "join '" + join.name() + "'";
      RecordShape.Link link = join.link();
      Collection<String> own = link == null ? join.match().keySet() : link.to().values();
      own.forEach(column -> need(join.table(), column, user));
      for (String column : join.order()) {
        need(join.table(), column.startsWith("-") ? column.substring(1) : column, user);
      }
      (link == null ? join.match() : link.match()).values().forEach(ref -> need(ref, user));
    }
    for (FieldDefinition field : definition.fields()) {
      refs(field).forEach(ref -> need(ref, "field '" + field.field().name() + "'"));
    }
  }

  private void need(ColumnRef ref, String user) {
    RecordShape shape = definition.shape();
    RecordShape.Join join = ref.join() == null ? null : shape.join(ref.join());
    need(join == null ? shape.root() : join.table(), ref.column(), user);
  }

  private void need(String table, String column, String user) {
    users.computeIfAbsent(table, name -> new TreeMap<>()).putIfAbsent(column, user);
  }

  /**
   * Checks the tables of an edition that is being started.
   *
   * @throws SourceUnavailableException if something that the definition needs is not there, perhaps
   *     for a moment
   */
  static ReadColumns first(IndexDefinition definition, ReadColumns now)
      throws SourceUnavailableException {
    new ColumnsCheck(definition).checkNeeded(now);
    return now;
  }

  /**
   * Compares tables with their former state.
   *
   * @return what is read from now on
   * @throws PositionLostException if a new edition has to be filled
   * @throws SourceUnavailableException if a person has to decide
   */
  static ReadColumns check(IndexDefinition definition, ReadColumns before, ReadColumns now)
      throws SourceUnavailableException {
    return new ColumnsCheck(definition).check(before, now);
  }

  private ReadColumns check(ReadColumns before, ReadColumns now) throws SourceUnavailableException {
    checkNeeded(now);
    Map<String, ReadColumns.Table> read = new TreeMap<>();
    for (Map.Entry<String, ReadColumns.Table> entry : before.tables().entrySet()) {
      String name = entry.getKey();
      ReadColumns.Table table = table(name, now);
      for (Map.Entry<String, String> column : entry.getValue().types().entrySet()) {
        checkColumn(name, column.getKey(), column.getValue(), table);
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
    checkWasRead(before);
    return new ReadColumns(read);
  }

  private void checkNeeded(ReadColumns now) throws SourceUnavailableException {
    for (Map.Entry<String, Map<String, String>> table : users.entrySet()) {
      Set<String> there = table(table.getKey(), now).types().keySet();
      for (Map.Entry<String, String> column : table.getValue().entrySet()) {
        if (!there.contains(column.getKey())) {
          throw gone(table.getKey(), column.getKey(), column.getValue());
        }
      }
    }
  }

  private void checkWasRead(ReadColumns before) {
    users.forEach(
        (table, columns) -> {
          ReadColumns.Table read = before.tables().get(table);
          for (String column : columns.keySet()) {
            if (read == null || !read.types().containsKey(column)) {
              throw new PositionLostException(
                  "column '%s.%s' was not there when this edition was started"
                      .formatted(table, column));
            }
          }
        });
  }

  private static ReadColumns.Table table(String name, ReadColumns now)
      throws SourceUnavailableException {
    ReadColumns.Table table = now.tables().get(name);
    if (table == null) {
      throw new SourceUnavailableException(
          "table '%s' is gone; the index keeps its content until the table is back or"
                  .formatted(name)
              + " a definition without it is applied",
          null);
    }
    return table;
  }

  private static SourceUnavailableException gone(String table, String column, String user) {
    return new SourceUnavailableException(
        "column '%s.%s', which %s needs, is gone; the index keeps its content until"
                .formatted(table, column, user)
            + " the column is back or a definition without it is applied",
        null);
  }

  private void checkColumn(String table, String column, String type, ReadColumns.Table now)
      throws SourceUnavailableException {
    String typeNow = now.types().get(column);
    if (typeNow == null) {
      String user = mentions(column);
      if (user != null) {
        throw gone(table, column, user);
      }
      throw new PositionLostException("column '%s.%s' was dropped".formatted(table, column));
    }
    if (!typeNow.equals(type)) {
      throw new PositionLostException(
          "column '%s.%s' is now of type %s instead of %s".formatted(table, column, typeNow, type));
    }
  }

  /** What may need a column besides those that name it as theirs: an SQL expression. */
  private @Nullable String mentions(String column) {
    for (FieldDefinition field : definition.fields()) {
      if (field.sql() != null && field.sql().contains(column)) {
        return "field '" + field.field().name() + "'";
      }
    }
    String only = definition.shape().only();
    return only != null && only.contains(column) ? "'only'" : null;
  }

  private static Stream<ColumnRef> refs(FieldDefinition field) {
    ColumnRef media = field.file() == null ? null : field.file().media();
    return Stream.concat(
        Stream.of(field.from(), field.second(), media).filter(Objects::nonNull),
        field.children().stream().flatMap(ColumnsCheck::refs));
  }
}
