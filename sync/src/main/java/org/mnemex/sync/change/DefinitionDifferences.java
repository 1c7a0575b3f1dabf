package org.mnemex.sync.change;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Analyser;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.source.ReadColumns;

/**
 * Compares two definitions of an index and states the cost of each difference.
 *
 * <p>An edition stores whole records. A change that only maps the same records differently can be
 * filled from those; a change that needs other records must read the database.
 */
public final class DefinitionDifferences {
  private final IndexDefinition from;
  private final IndexDefinition to;
  private final @Nullable ReadColumns stored;
  private final List<Difference> found = new ArrayList<>();

  private DefinitionDifferences(
      IndexDefinition from, IndexDefinition to, @Nullable ReadColumns stored) {
    this.from = from;
    this.to = to;
    this.stored = stored;
  }

  /**
   * The differences, in the order of the definition; empty if there are none.
   *
   * @param stored the columns of stored records; null if unknown
   */
  public static List<Difference> between(
      IndexDefinition from, IndexDefinition to, @Nullable ReadColumns stored) {
    DefinitionDifferences differences = new DefinitionDifferences(from, to, stored);
    differences.settings();
    differences.shape();
    differences.fields();
    return differences.found;
  }

  /** The total cost, or null if there are no differences. */
  public static @Nullable Cost cost(List<Difference> differences) {
    return differences.stream().map(Difference::cost).reduce(Cost::or).orElse(null);
  }

  /** Columns that the new definition forbids and stored records may contain. */
  public static Set<String> newlyForbidden(IndexDefinition from, IndexDefinition to) {
    Set<String> forbidden = new TreeSet<>(to.shape().never());
    forbidden.removeAll(from.shape().never());
    return forbidden;
  }

  private void note(String path, Cost cost, String reason) {
    found.add(new Difference(path, cost, reason));
  }

  private void compare(
      @Nullable Object before, @Nullable Object after, String path, Cost cost, String reason) {
    if (!Objects.equals(before, after)) {
      note(path, cost, reason);
    }
  }

  private void settings() {
    compare(
        from.source(),
        to.source(),
        "source",
        Cost.FROM_DATABASE,
        "records come from another database");
    String settings = "it affects future operation, not the content of the index";
    compare(from.mostRemoved(), to.mostRemoved(), "most_removed", Cost.AT_ONCE, settings);
    compare(from.mostChanged(), to.mostChanged(), "most_changed", Cost.AT_ONCE, settings);
    compare(from.keepUnreadable(), to.keepUnreadable(), "unreadable", Cost.AT_ONCE, settings);
    compare(from.audits(), to.audits(), "audits", Cost.AT_ONCE, settings);
    compare(from.compact(), to.compact(), "compact", Cost.AT_ONCE, settings);
    compare(from.grace(), to.grace(), "grace", Cost.AT_ONCE, settings);
    compare(from.freshest(), to.freshest(), "freshest", Cost.AT_ONCE, settings);
  }

  private void shape() {
    RecordShape before = from.shape();
    RecordShape after = to.shape();
    String other = "a record consists of other rows, which only the database has";
    compare(before.root(), after.root(), "record.root", Cost.FROM_DATABASE, other);
    compare(
        before.key(),
        after.key(),
        "record.key",
        Cost.FROM_DATABASE,
        "documents get other keys, so earlier ones cannot be recognised");
    compare(
        before.only(),
        after.only(),
        "record.only",
        Cost.FROM_DATABASE,
        "which rows meet the condition only the database can say");
    Map<String, RecordShape.Join> joins = new LinkedHashMap<>();
    before.joins().forEach(join -> joins.put(join.name(), join));
    for (RecordShape.Join join : after.joins()) {
      RecordShape.Join former = joins.remove(join.name());
      if (former == null) {
        note(
            "record.join." + join.name(),
            Cost.FROM_DATABASE,
            "the stored records have no rows of '%s' joined like this".formatted(join.table()));
      } else {
        compare(former, join, "record.join." + join.name(), Cost.FROM_DATABASE, other);
      }
    }
    joins
        .keySet()
        .forEach(
            name ->
                note(
                    "record.join." + name,
                    Cost.FROM_DATABASE,
                    "changes of that table are no longer followed, and its rows are not stored"));
    for (String column : newlyForbidden(from, to)) {
      note(
          "never." + column,
          Cost.FROM_DATABASE,
          "stored records may contain '%s': they are read without it, and the previous edition is"
                  .formatted(column)
              + " removed as soon as the new one is live");
    }
    Set<String> allowed = new TreeSet<>(before.never());
    allowed.removeAll(after.never());
    for (String column : allowed) {
      note(
          "never." + column,
          Cost.FROM_DATABASE,
          "the stored records do not hold '%s'".formatted(column));
    }
  }

  private void fields() {
    Map<String, FieldDefinition> before = new LinkedHashMap<>();
    from.fields().forEach(field -> before.put(field.field().name(), field));
    for (FieldDefinition field : to.fields()) {
      String name = field.field().name();
      FieldDefinition former = before.remove(name);
      String was = to.renamed().get(name);
      if (former != null) {
        field("fields." + name, former, field);
      } else if (was != null && before.containsKey(was)) {
        note(
            "fields." + name,
            Cost.FROM_STORED,
            "'%s' is renamed to '%s': its values are stored under another name"
                .formatted(was, name));
        field("fields." + name, before.remove(was), field);
      } else if (isStored(field)) {
        note(
            "fields." + name,
            Cost.FROM_STORED,
            "a new field whose values are in the stored records");
      } else {
        note(
            "fields." + name,
            Cost.FROM_DATABASE,
            field.sql() != null
                ? "a new field whose expression only the database can evaluate"
                : "a new field whose values are not in the stored records");
      }
    }
    before
        .keySet()
        .forEach(
            name ->
                note(
                    "fields." + name,
                    Cost.FROM_STORED,
                    "the field and its index content are removed"));
    List<String> order = from.fields().stream().map(f -> f.field().name()).toList();
    List<String> orderNow = to.fields().stream().map(f -> f.field().name()).toList();
    if (!order.equals(orderNow) && Set.copyOf(order).equals(Set.copyOf(orderNow))) {
      note("fields", Cost.FROM_STORED, "the index files hold fields in the definition's order");
    }
  }

  private void field(String path, FieldDefinition before, FieldDefinition after) {
    origin(path, before, after);
    compare(
        before.clean().toString(),
        after.clean().toString(),
        path + ".clean",
        Cost.FROM_STORED,
        "the same columns give other values");
    Field was = before.field();
    Field is = after.field();
    compare(
        was.type(),
        is.type(),
        path + ".type",
        Cost.FROM_STORED,
        "from %s to %s: values are kept in another form"
            .formatted(was.type().word(), is.type().word()));
    compare(
        was.fold(),
        is.fold(),
        path + ".fold",
        Cost.FROM_STORED,
        "values are compared in another form");
    compare(
        was.scale(),
        is.scale(),
        path + ".scale",
        Cost.FROM_STORED,
        "numbers are kept with other digits");
    children(path + ".fields", before.children(), after.children());
    compare(
        signature(was.analyser()),
        signature(is.analyser()),
        path + ".analyser",
        Cost.FROM_STORED,
        "documents get other terms");
    if (Objects.equals(signature(was.analyser()), signature(is.analyser()))) {
      compare(
          signature(was.queryAnalyser()),
          signature(is.queryAnalyser()),
          path + ".query_analyser",
          Cost.AT_ONCE,
          "only the analysis of queries changes");
    }
    uses(path + ".uses", was, is);
    compare(
        was.weight(),
        is.weight(),
        path + ".weight",
        Cost.AT_ONCE,
        "weights are applied when a query is scored");
    compare(before.title(), after.title(), path + ".title", Cost.AT_ONCE, "titles are only shown");
  }

  private void children(String path, List<FieldDefinition> before, List<FieldDefinition> after) {
    List<String> names = before.stream().map(child -> child.field().ownName()).toList();
    List<String> namesNow = after.stream().map(child -> child.field().ownName()).toList();
    compare(names, namesNow, path, Cost.FROM_STORED, "the group has other fields");
    if (names.equals(namesNow)) {
      for (int i = 0; i < names.size(); i++) {
        field(path + "." + names.get(i), before.get(i), after.get(i));
      }
    }
  }

  private void origin(String path, FieldDefinition before, FieldDefinition after) {
    if (!Objects.equals(before.sql(), after.sql())) {
      note(
          path + ".sql",
          after.sql() == null && isStored(after) ? Cost.FROM_STORED : Cost.FROM_DATABASE,
          after.sql() == null
              ? "the values are taken from a column instead"
              : "the expression is evaluated by the database");
    } else if (!Objects.equals(before.from(), after.from())
        || !Objects.equals(before.second(), after.second())) {
      note(
          path + ".from",
          isStored(after) ? Cost.FROM_STORED : Cost.FROM_DATABASE,
          isStored(after)
              ? "the values are taken from another column, which the stored records have"
              : "the values are taken from a column that the stored records do not have");
    }
    compare(
        before.file(),
        after.file(),
        path + ".extract",
        Cost.FROM_DATABASE,
        "records keep the text of files, not the files");
  }

  private void uses(String path, Field was, Field is) {
    if (was.uses().equals(is.uses())) {
      return;
    }
    boolean sameFiles =
        was.hasTerms() == is.hasTerms()
            && was.hasColumn() == is.hasColumn()
            && was.isStored() == is.isStored();
    Set<Use> changed = new TreeSet<>(is.uses());
    changed.removeAll(was.uses());
    was.uses().stream().filter(use -> !is.uses().contains(use)).forEach(changed::add);
    String words = changed.stream().map(Use::word).collect(Collectors.joining(", "));
    note(
        path,
        sameFiles ? Cost.AT_ONCE : Cost.FROM_STORED,
        sameFiles
            ? words + ": the index files have what it needs"
            : words + ": the index files need other parts");
  }

  /** Whether stored records contain what a field needs. */
  private boolean isStored(FieldDefinition field) {
    if (field.sql() != null) {
      return from.fields().stream()
          .anyMatch(one -> field.sql().equals(one.sql()) && sameName(one, field));
    }
    if (field.file() != null) {
      return false;
    }
    return Stream.concat(Stream.of(field), field.children().stream())
        .flatMap(one -> Stream.of(one.from(), one.second()).filter(Objects::nonNull))
        .allMatch(this::isStored);
  }

  private static boolean sameName(FieldDefinition one, FieldDefinition other) {
    return one.field().name().equals(other.field().name());
  }

  private boolean isStored(ColumnRef ref) {
    if (stored == null || ref.join() != null && from.shape().join(ref.join()) == null) {
      return false;
    }
    if (stored.tables().isEmpty()) {
      // Sources without tables store whole documents.
      return true;
    }
    String tableColumn = from.shape().tableColumn(ref);
    String table = tableColumn.substring(0, tableColumn.length() - ref.column().length() - 1);
    return stored.columns(table).contains(ref.column())
        && !from.shape().files().contains(tableColumn);
  }

  private static String signature(@Nullable Analyser analyser) {
    return analyser == null ? "" : analyser.signature();
  }
}
