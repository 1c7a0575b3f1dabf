package org.mnemex.sync.draft;

import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;

/**
 * Proposes a push source, an index and an endpoint for the records of a file, from its first ones.
 */
public final class FileDraft {
  /** A key is rather one of these than another column with different values. */
  private static final List<String> KEYS =
      List.of("id", "key", "sku", "number", "no", "code", "uuid", "slug", "url");

  private static final int DEEPEST = 3;
  private static final double MOSTLY = 0.95;

  private final String name;
  private final List<Map<String, Object>> records;
  private final Map<String, ColumnSample> samples = new LinkedHashMap<>();
  private final Set<String> several = new LinkedHashSet<>();
  private final Set<String> objects = new LinkedHashSet<>();

  private FileDraft(String name, List<Map<String, Object>> records) {
    this.name = name;
    this.records =
        records.stream()
            .map(
                record -> {
                  Map<String, Object> flat = new LinkedHashMap<>();
                  flatten("", record, flat, 0);
                  return flat;
                })
            .toList();
    Set<String> columns = new LinkedHashSet<>();
    this.records.forEach(record -> columns.addAll(record.keySet()));
    columns.forEach(column -> samples.put(column, new ColumnSample(column, this.records)));
  }

  /**
   * Proposes definitions.
   *
   * @param name what the records are, such as the name of the file without its ending
   * @param records the first records; values are texts, numbers, booleans, lists or maps
   * @return YAML that can be applied
   * @throws IllegalArgumentException with a sentence, if nothing can be proposed
   */
  public static String of(String name, List<Map<String, Object>> records) {
    if (records.isEmpty()) {
      throw new IllegalArgumentException("there is no record in the sample");
    }
    return new FileDraft(name, records).text();
  }

  /** Objects within a record as columns with a point: {@code maker.name}. */
  private void flatten(String before, Map<?, ?> record, Map<String, Object> into, int depth) {
    record.forEach(
        (key, value) -> {
          String column = before + key;
          if (value instanceof Map<?, ?> inner && depth < DEEPEST) {
            flatten(column + ".", inner, into, depth + 1);
          } else if (value instanceof Collection<?> list) {
            if (list.stream().anyMatch(one -> one instanceof Map || one instanceof Collection)) {
              objects.add(column);
            } else {
              List<Object> values =
                  list.stream().filter(Objects::nonNull).<Object>map(one -> one).toList();
              several.add(column);
              into.put(column, values);
            }
          } else if (value != null && !value.toString().isBlank()) {
            into.put(column, value);
          }
        });
  }

  private String key() {
    List<String> different =
        samples.entrySet().stream()
            .filter(one -> !several.contains(one.getKey()))
            .filter(one -> one.getValue().distinct == one.getValue().values)
            // A few records may lack it: they are refused when they are imported.
            .filter(one -> one.getValue().values >= MOSTLY * records.size())
            .map(Map.Entry::getKey)
            .toList();
    if (different.isEmpty()) {
      throw new IllegalArgumentException(
          "no column has a different value in each of the first %,d records, so they cannot be told apart; add one, such as id"
              .formatted(records.size()));
    }
    for (String wanted : KEYS) {
      for (String column : different) {
        String lower = column.toLowerCase(Locale.ROOT);
        if (lower.equals(wanted) || lower.endsWith("_" + wanted)) {
          return column;
        }
      }
    }
    return different.getFirst();
  }

  private String text() {
    String index = DraftNames.index(name);
    String key = key();
    DraftFields fields = new DraftFields(new DraftNames());
    Map<String, String> never = new LinkedHashMap<>();
    samples.forEach(
        (column, sample) -> {
          String personal = sample.personal();
          if (!personal.isEmpty() && !column.equals(key)) {
            never.put(column, personal);
          } else {
            fields.add(column(column, sample, column.equals(key)));
          }
        });
    objects.forEach(
        column -> fields.leaveOut(null, column, "lists of objects; make a field of type group"));
    StringBuilder out = new StringBuilder();
    out.append(
        "# Proposed from the first %,d records. Read every line, change what is wrong, then:\n"
            .formatted(records.size()));
    out.append("#   mnemex apply FILE\n");
    out.append("#   mnemex import RECORDS -i ").append(index).append('\n');
    out.append("source: ").append(index).append("-records  # your application pushes them\n");
    out.append("kind: push\n---\n");
    out.append("index: ").append(index).append('\n');
    out.append("source: ").append(index).append("-records\n");
    out.append(
        "record: {key: [%s]}  # different in each of them\n".formatted(DraftNames.quoted(key)));
    if (!never.isEmpty()) {
      out.append("never:  # never stored: they look personal\n");
      never.forEach(
          (column, why) -> out.append("  - %s  # %s\n".formatted(DraftNames.quoted(column), why)));
    }
    fields.write(out, index);
    return out.toString();
  }

  private DraftColumn column(String column, ColumnSample sample, boolean isKey) {
    boolean many = several.contains(column);
    // Short texts in lists are tags.
    return new DraftColumn(column, "", sample, null, many, many, isKey, null);
  }
}
