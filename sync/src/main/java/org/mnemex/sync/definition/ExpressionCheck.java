package org.mnemex.sync.definition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SqlWords.Word;

/**
 * Checks the SQL in an index definition ({@code only} and {@code sql}) for what cannot be followed,
 * and for columns under never.
 */
public final class ExpressionCheck {
  /** Functions whose values change without a change of any row. */
  private static final Set<String> CHANGING =
      Set.of(
          "now",
          "current_date",
          "current_time",
          "current_timestamp",
          "localtime",
          "localtimestamp",
          "clock_timestamp",
          "statement_timestamp",
          "transaction_timestamp",
          "timeofday",
          "sysdate",
          "curdate",
          "curtime",
          "utc_date",
          "utc_time",
          "utc_timestamp",
          "random",
          "rand",
          "randomblob",
          "uuid",
          "gen_random_uuid",
          "current_user",
          "session_user",
          "last_insert_id",
          "connection_id");

  private final RecordShape shape;

  /** Tables by their names in expressions. */
  private final Map<String, String> tables = new TreeMap<>();

  private ExpressionCheck(RecordShape shape) {
    this.shape = shape;
    add(shape.root(), shape.root());
    for (RecordShape.Join join : shape.joins()) {
      add(join.name(), join.table());
      if (join.link() != null) {
        add(join.link().table(), join.link().table());
      }
    }
  }

  private void add(String name, String table) {
    tables.put(name.toLowerCase(Locale.ROOT), table.toLowerCase(Locale.ROOT));
  }

  /**
   * Refuses expressions.
   *
   * @return one problem for each bad expression
   */
  public static List<InvalidDefinitionException> problems(IndexDefinition index) {
    ExpressionCheck check = new ExpressionCheck(index.shape());
    List<InvalidDefinitionException> problems = new ArrayList<>();
    expressions(index)
        .forEach(
            (path, sql) -> {
              String problem = check.problem(SqlWords.of(sql));
              if (problem != null) {
                problems.add(new InvalidDefinitionException(path, problem, null));
              }
            });
    return problems;
  }

  /** Warnings about expressions that may surprise. */
  public static List<String> warnings(IndexDefinition index) {
    List<String> warnings = new ArrayList<>();
    expressions(index)
        .forEach(
            (path, sql) -> {
              Set<String> changing = new TreeSet<>();
              SqlWords.of(sql).forEach(word -> changing.add(word.text()));
              changing.retainAll(CHANGING);
              if (changing.isEmpty() && sql.matches("(?is).*\\(([^()]*,)?\\s*'now'.*")) {
                changing.add("'now'");
              }
              if (!changing.isEmpty()) {
                warnings.add(
                    "%s: %s changes without a change to any row, so a record keeps the value of its last change; let audits repair that ('audits'), or use the filter of an endpoint instead"
                        .formatted(String.join(".", path), String.join(", ", changing)));
              }
            });
    return warnings;
  }

  private static Map<List<String>, String> expressions(IndexDefinition index) {
    Map<List<String>, String> expressions = new LinkedHashMap<>();
    if (index.shape().only() != null) {
      expressions.put(List.of("record", "only"), index.shape().only());
    }
    for (RecordShape.Join join : index.shape().joins()) {
      if (join.only() != null) {
        expressions.put(List.of("record", "join", join.name(), "only"), join.only());
      }
    }
    index
        .expressions()
        .forEach((field, sql) -> expressions.put(List.of("fields", field, "sql"), sql));
    return expressions;
  }

  private @Nullable String problem(List<Word> words) {
    for (int i = 0; i < words.size(); i++) {
      Word word = words.get(i);
      if (word.isName() && word.text().equals("select") && !isQualified(words, i)) {
        return "a sub-query reads tables whose changes are not followed; write a join instead";
      }
      String never = word.isName() ? never(words, i) : null;
      if (never != null) {
        return never;
      }
    }
    return null;
  }

  private static boolean isQualified(List<Word> words, int at) {
    return at >= 2 && words.get(at - 1).text().equals(".") && words.get(at - 2).isName();
  }

  private @Nullable String never(List<Word> words, int at) {
    String name = words.get(at).text();
    String table = isQualified(words, at) ? tables.get(words.get(at - 2).text()) : null;
    String next = at + 1 < words.size() ? words.get(at + 1).text() : "";
    for (String column : shape.never()) {
      RecordShape.ColumnRef ref = RecordShape.ColumnRef.of(column.toLowerCase(Locale.ROOT));
      String of = ref.join();
      boolean another = table != null && of != null && !table.equals(of);
      if (ref.column().equals(name) && !another && !next.equals("(")) {
        return "column '%s' is under never".formatted(column);
      }
      boolean wholeRow =
          of != null
              && of.equals(tables.get(name))
              && !isQualified(words, at)
              && !next.equals("(")
              && (!next.equals(".") || followedByStar(words, at));
      if (wholeRow) {
        return "'%s' stands for a whole row, including column '%s', which is under never"
            .formatted(name, column);
      }
    }
    return null;
  }

  private static boolean followedByStar(List<Word> words, int at) {
    return at + 2 < words.size() && words.get(at + 2).text().equals("*");
  }
}
