package org.mnemex.cli;

import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SpaceReport;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "status",
    description = "Show the state of every index: editions, feeds, lag, sizes.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex status --watch",
      "         mnemex status --sizes plants",
      "Exit code 1 if an index does not run, or an edition is damaged or reports a problem."
    })
final class StatusCommand implements Callable<Integer> {
  private static final long WATCH_MILLIS = 1000;
  private static final String HOME_AND_CLEAR = "\033[H\033[J";

  @Mixin private Service service = new Service();

  @Option(names = "--watch", description = "refresh every second, until Ctrl-C")
  private boolean watch;

  @Option(
      names = "--sizes",
      paramLabel = "INDEX",
      description = "show what the fields of an index take on the disk, and how to save space")
  private @Nullable String sizes;

  @Override
  public Integer call() throws InterruptedException {
    try (MnemexClient client = service.client()) {
      if (sizes != null) {
        print(client.sizes(sizes));
        return ExitCode.DONE;
      }
      List<IndexStatus> indexes;
      do {
        indexes = client.indexes();
        if (watch && !service.json()) {
          service.out().print(service.styled("@|bold x|@").length() > 1 ? HOME_AND_CLEAR : "");
        }
        if (service.json()) {
          service.printJson(indexes);
        } else {
          print(indexes);
        }
        service.out().flush();
        if (watch) {
          Thread.sleep(WATCH_MILLIS);
        }
      } while (watch);
      return indexes.stream().allMatch(StatusCommand::isWell) ? ExitCode.DONE : ExitCode.FAILED;
    }
  }

  private static boolean isWell(IndexStatus index) {
    return index.problem() == null
        && Stream.of(index.live(), index.next())
            .filter(Objects::nonNull)
            .allMatch(edition -> edition.problem() == null && edition.damage() == null);
  }

  private void print(SpaceReport report) {
    if (service.json()) {
      service.printJson(report);
      return;
    }
    service
        .out()
        .printf(
            "Edition %d: %s and %s in %s.%n%n",
            report.edition(),
            Counted.of(report.documents(), "document"),
            Counted.of(report.deleted(), "deleted one"),
            BackupCommand.size(report.bytes()));
    SizeTables.print(
        report.parts(),
        report.fields().stream()
            .map(field -> new SizeTables.FieldRow(field.name(), field.terms(), field.parts()))
            .toList(),
        service.out());
    if (report.savings().isEmpty()) {
      service.out().println("Nothing of it is dispensable.");
      return;
    }
    service.out().println("To save space:");
    for (SpaceReport.Saving saving : report.savings()) {
      service
          .out()
          .printf(
              "  about %s: %s; %s%n",
              BackupCommand.size(saving.bytes()), saving.what(), saving.how());
    }
  }

  private void print(List<IndexStatus> indexes) {
    if (indexes.isEmpty()) {
      service.out().println("There is no index yet. Define one: mnemex apply FILES");
      return;
    }
    Table table =
        new Table(
            "index",
            ">edition",
            "state",
            ">documents",
            ">quarantine",
            ">size",
            ">changes",
            ">lag p50",
            ">p99",
            "true at");
    for (IndexStatus index : indexes) {
      row(
          table,
          index,
          index.live(),
          index.live() != null && index.live().damage() != null
              ? "damaged"
              : index.paused() ? "paused" : index.fresh() ? "fresh" : "behind");
      row(table, index, index.next(), index.next() == null ? "" : index.next().state());
      row(table, index, index.former(), "former");
    }
    table.print(service.out());
    for (IndexStatus index : indexes) {
      if (index.problem() != null) {
        service
            .out()
            .println(service.styled("@|bold,red !|@ ") + index.name() + ": " + index.problem());
      }
      problem(index, index.live());
      problem(index, index.next());
      if (index.held() != null) {
        service
            .out()
            .println(
                service.styled("@|bold,red !|@ ")
                    + index.name()
                    + ": "
                    + index.held()
                    + ": mnemex compare, then mnemex promote");
      }
    }
  }

  private static void row(
      Table table, IndexStatus index, IndexStatus.@Nullable Edition edition, String state) {
    if (edition == null) {
      return;
    }
    String progress =
        state.equals("filling") && edition.recordsTotal() > 0
            ? " %d%%".formatted(100 * edition.recordsDone() / edition.recordsTotal())
            : "";
    table.row(
        index.name(),
        edition.number(),
        state + progress,
        "%,d".formatted(edition.documents()),
        edition.quarantined(),
        size(edition.bytes()),
        "%,d".formatted(edition.changes()),
        millis(edition.lagMedianMillis()),
        millis(edition.lagP99Millis()),
        edition.trueAt() == null ? "-" : edition.trueAt());
  }

  private void problem(IndexStatus index, IndexStatus.@Nullable Edition edition) {
    if (edition != null && edition.problem() != null) {
      service
          .out()
          .println(
              service.styled("@|bold,red !|@ ")
                  + index.name()
                  + " edition "
                  + edition.number()
                  + " "
                  + edition.phase().toLowerCase(Locale.ROOT)
                  + ": "
                  + edition.problem());
    }
  }

  private static String millis(long millis) {
    return millis < 0 ? "-" : millis + " ms";
  }

  private static String size(long bytes) {
    return "%.1f MB".formatted(bytes / 1e6);
  }
}
