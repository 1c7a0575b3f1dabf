package org.mnemex.cli;

import java.io.PrintWriter;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;

/** Tables of what bytes are for. */
final class SizeTables {
  private static final int PERCENT = 100;
  private static final int LARGEST = 3;

  private SizeTables() {}

  /** A field, and its bytes by what they are for. */
  record FieldRow(String name, long terms, Map<String, Long> parts) {
    long bytes() {
      return sum(parts);
    }
  }

  /** Prints what all bytes are for, the most first, then each field, in the given order. */
  static void print(Map<String, Long> parts, List<FieldRow> fields, PrintWriter out) {
    long all = sum(parts);
    Table byPart = new Table("part", ">size", ">share");
    parts.entrySet().stream()
        .sorted(Map.Entry.<String, Long>comparingByValue().reversed())
        .forEach(
            part ->
                byPart.row(
                    part.getKey(),
                    BackupCommand.size(part.getValue()),
                    share(part.getValue(), all)));
    byPart.print(out);
    out.println();
    Table byField = new Table("field", ">terms", ">size", ">share", "mostly");
    for (FieldRow field : fields) {
      byField.row(
          field.name(),
          "%,d".formatted(field.terms()),
          BackupCommand.size(field.bytes()),
          share(field.bytes(), all),
          mostly(field));
    }
    byField.print(out);
    out.println();
  }

  private static String mostly(FieldRow field) {
    return field.parts().entrySet().stream()
        .filter(part -> part.getValue() > 0)
        .sorted(Map.Entry.<String, Long>comparingByValue().reversed())
        .limit(LARGEST)
        .map(part -> part.getKey() + " " + BackupCommand.size(part.getValue()))
        .collect(Collectors.joining(", "));
  }

  private static String share(long part, long all) {
    return "%.1f%%".formatted(all == 0 ? 0.0 : (double) PERCENT * part / all);
  }

  private static long sum(Map<String, Long> parts) {
    return parts.values().stream().mapToLong(Long::longValue).sum();
  }
}
