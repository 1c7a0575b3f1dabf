package org.mnemex.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Change;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.TracedRecord;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

@Command(
    name = "trace",
    description = "Follow one record from its database row to its tokens.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex trace QB-00017"})
final class TraceCommand implements Callable<Integer> {
  private static final int VALUE_LENGTH = 100;
  private static final int CHANGES_SHOWN = 5;

  @Mixin private Service service = new Service();

  @Parameters(paramLabel = "KEY", description = "the record's key")
  private String key = "";

  @Mixin private IndexOption index = new IndexOption();

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      TracedRecord record = client.record(index.name(client), key);
      if (service.json()) {
        service.printJson(record);
      } else {
        print(record);
      }
      return ExitCode.DONE;
    }
  }

  private void print(TracedRecord record) {
    var out = service.out();
    String verdict =
        record.agrees() == null
            ? "the database is unreachable: " + record.problem()
            : !record.agrees()
                ? "@|bold,red database and index differ|@"
                : record.database() == null
                    ? "neither in the database (under this definition) nor in the index"
                    : "@|bold,green database and index agree|@";
    out.println(service.styled("@|bold " + record.key() + "|@: " + verdict));
    if (record.quarantine() != null) {
      out.println("In quarantine: " + record.quarantine());
    }
    if (record.database() != null) {
      section("Database row, with related rows", record.database().columns());
      section("Computed by SQL", record.database().computed());
    }
    section("Document", record.fields());
    section("Tokens", record.tokens());
    if (!record.changes().isEmpty()) {
      out.println(service.styled("@|bold Last changes|@"));
      Table table =
          new Table("  committed", "table", "outcome", ">captured", ">read", ">mapped", ">visible");
      for (Change change :
          record.changes().subList(0, Math.min(CHANGES_SHOWN, record.changes().size()))) {
        table.row(
            "  " + change.committed(),
            change.table(),
            change.outcome().toLowerCase(Locale.ROOT),
            after(change, change.captured()),
            after(change, change.read()),
            after(change, change.mapped()),
            after(change, change.visible()));
      }
      table.print(out);
    }
  }

  private static String after(Change change, Instant at) {
    return "+" + Math.max(0, Duration.between(change.committed(), at).toMillis()) + " ms";
  }

  private void section(String title, @Nullable Map<String, ?> values) {
    if (values == null || values.isEmpty()) {
      return;
    }
    service.out().println(service.styled("@|bold " + title + "|@"));
    Table table = new Table("  ", "");
    values.forEach((name, value) -> table.row("  " + name, shortened(plain(value))));
    table.print(service.out());
  }

  /** Formats values for people, without Java's brackets. */
  private static String plain(Object value) {
    return switch (value) {
      case List<?> list -> String.join(" · ", list.stream().map(TraceCommand::plain).toList());
      case Map<?, ?> row ->
          row.entrySet().stream()
              .map(column -> column.getKey() + " " + plain(column.getValue()))
              .collect(Collectors.joining(", "));
      default -> String.valueOf(value);
    };
  }

  private static String shortened(String value) {
    String text = value.replace('\n', ' ');
    return text.length() > VALUE_LENGTH ? text.substring(0, VALUE_LENGTH) + "…" : text;
  }
}
