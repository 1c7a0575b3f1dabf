package org.mnemex.sync.source;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.sync.definition.ExpressionCheck;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.InvalidDefinitionException;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.source.Catalogue.Column;
import org.mnemex.sync.source.Catalogue.Table;

/** Checks an index definition against the existing tables. */
public final class CatalogueCheck {
  private final Catalogue catalogue;
  private final RecordShape shape;

  private CatalogueCheck(Catalogue catalogue, RecordShape shape) {
    this.catalogue = catalogue;
    this.shape = shape;
  }

  /**
   * Checks tables and columns.
   *
   * @throws InvalidDefinitionException for the first that is missing or unusable
   */
  public static void check(IndexDefinition definition, Catalogue catalogue) {
    CatalogueCheck check = new CatalogueCheck(catalogue, definition.shape());
    check.checkShape();
    for (InvalidDefinitionException problem : ExpressionCheck.problems(definition)) {
      throw problem;
    }
    definition.fields().forEach(check::checkField);
  }

  private void checkShape() {
    if (shape.root().isEmpty()) {
      throw new InvalidDefinitionException(
          List.of("record"), "the key 'root' is missing: the table whose rows are records", null);
    }
    Table root = table(shape.root(), List.of("record", "root"));
    for (String key : shape.key()) {
      if (column(root, key, List.of("record", "key")).binary()) {
        throw new InvalidDefinitionException(
            List.of("record", "key"),
            "column '%s.%s' holds bytes; key columns must be texts, numbers, dates or UUIDs"
                .formatted(root.name(), key),
            null);
      }
    }
    for (String never : shape.never()) {
      checkNever(never);
    }
    for (RecordShape.Join join : shape.joins()) {
      checkJoin(join);
    }
  }

  private void checkNever(String never) {
    RecordShape.ColumnRef ref = RecordShape.ColumnRef.of(never);
    if (ref.join() == null) {
      throw new InvalidDefinitionException(
          List.of("never"), "'" + never + "' must be written as table.column", null);
    }
    Table table = table(ref.join(), List.of("never"));
    column(table, ref.column(), List.of("never"));
  }

  private void checkJoin(RecordShape.Join join) {
    List<String> path = List.of("record", "join", join.name());
    Table root = table(shape.root(), path);
    if (join.name().equals(shape.root()) || root.columnNames().contains(join.name())) {
      throw new InvalidDefinitionException(
          path,
          "a join needs another name than table '%s' and its columns, or '%s' could mean either"
              .formatted(shape.root(), join.name()),
          null);
    }
    Table table = table(join.table(), with(path, "table"));
    RecordShape.Link link = join.link();
    if (link == null) {
      checkMatch(table, join.match(), with(path, "match"));
    } else {
      Table linkTable = table(link.table(), with(path, "via", "table"));
      checkMatch(linkTable, link.match(), with(path, "via", "match"));
      link.to()
          .forEach(
              (linkColumn, column) -> {
                column(linkTable, linkColumn, with(path, "via", "to"));
                column(table, column, with(path, "via", "to", linkColumn));
              });
    }
    for (String order : join.order()) {
      column(table, order.startsWith("-") ? order.substring(1) : order, with(path, "order"));
    }
  }

  private void checkMatch(
      Table table, Map<String, RecordShape.ColumnRef> match, List<String> path) {
    match.forEach(
        (column, ref) -> {
          column(table, column, path);
          column(ref, with(path, column));
        });
  }

  private void checkField(FieldDefinition field) {
    for (FieldDefinition child : field.children()) {
      checkField(child);
    }
    List<String> path = List.of("fields", field.field().name(), "from");
    for (RecordShape.ColumnRef from :
        Stream.of(field.from(), field.second()).filter(Objects::nonNull).toList()) {
      boolean binary = column(from, path).binary();
      if (binary && field.file() == null) {
        throw new InvalidDefinitionException(
            path,
            "column '" + from + "' contains bytes; 'extract: true' extracts the text of files",
            null);
      }
      if (!binary && field.file() != null) {
        throw new InvalidDefinitionException(
            path, "column '" + from + "' contains no bytes to extract text from", null);
      }
    }
    if (field.file() != null && field.file().media() != null) {
      column(field.file().media(), List.of("fields", field.field().name(), "media"));
    }
  }

  private Column column(RecordShape.ColumnRef ref, List<String> path) {
    if (ref.join() == null) {
      return column(table(shape.root(), path), ref.column(), path);
    }
    RecordShape.Join join = shape.join(ref.join());
    if (join == null) {
      List<String> names = shape.joins().stream().map(RecordShape.Join::name).toList();
      throw new InvalidDefinitionException(
          path,
          "there is no join '%s'%s"
              .formatted(
                  ref.join(),
                  ref.join().equals(shape.root())
                      ? "; write columns of the root without its name"
                      : ""),
          NearestName.to(ref.join(), names));
    }
    return column(table(join.table(), path), ref.column(), path);
  }

  private Column column(Table table, String name, List<String> path) {
    Column column = table.column(name);
    if (column == null) {
      throw unknown(
          "table '" + table.name() + "' has no column '", name, table.columnNames(), path);
    }
    if (shape.never().contains(table.name() + "." + name) && !path.getFirst().equals("never")) {
      throw new InvalidDefinitionException(
          path, "column '%s.%s' is under never".formatted(table.name(), name), null);
    }
    return column;
  }

  private Table table(String name, List<String> path) {
    Table table = catalogue.table(name);
    if (table == null) {
      throw unknown("there is no table '", name, catalogue.tables().keySet(), path);
    }
    if (table.view()) {
      throw new InvalidDefinitionException(
          path,
          "'" + name + "' is a view, whose changes cannot be followed; use the tables behind it",
          null);
    }
    return table;
  }

  private static InvalidDefinitionException unknown(
      String what, String name, Collection<String> known, List<String> path) {
    @Nullable String nearest = NearestName.to(name, Set.copyOf(known));
    return new InvalidDefinitionException(path, what + name + "'", nearest);
  }

  private static List<String> with(List<String> path, String... more) {
    List<String> longer = new ArrayList<>(path);
    longer.addAll(List.of(more));
    return longer;
  }
}
