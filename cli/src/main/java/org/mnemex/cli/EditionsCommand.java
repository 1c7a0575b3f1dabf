package org.mnemex.cli;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import org.mnemex.client.EditionEntry;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "editions",
    description = "List the editions of an index.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex editions --all"})
final class EditionsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Option(names = "--all", description = "also removed ones")
  private boolean all;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      List<EditionEntry> editions =
          client.editions(index.name(client)).stream()
              .filter(edition -> all || !edition.state().equals("retired"))
              .toList();
      if (service.json()) {
        service.printJson(editions);
      } else {
        print(editions);
      }
      return ExitCode.DONE;
    }
  }

  private void print(List<EditionEntry> editions) {
    Table table =
        new Table(">edition", ">version", "state", "filled from", ">records", ">took", "");
    for (EditionEntry edition : editions) {
      table.row(
          edition.number(),
          edition.version(),
          edition.state(),
          edition.fromStored() ? "stored records" : "the database",
          edition.filledRecords() == null ? "" : "%,d".formatted(edition.filledRecords()),
          edition.filledMillis() == null ? "" : "%.1f s".formatted(edition.filledMillis() / 1e3),
          remark(edition));
    }
    table.print(service.out());
  }

  private static String remark(EditionEntry edition) {
    return switch (edition.state()) {
      case "ready" -> "waits for: mnemex promote";
      case "former" ->
          edition.until() == null
              ? ""
              : "mnemex rollback restores it, for " + left(edition.until());
      default -> "";
    };
  }

  private static String left(String until) {
    Duration left = Duration.between(Instant.now(), Instant.parse(until));
    return left.toMinutes() > 0 ? left.toMinutes() + " min" : Math.max(0, left.toSeconds()) + " s";
  }
}
