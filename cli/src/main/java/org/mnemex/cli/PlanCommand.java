package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.PlannedChanges;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "plan",
    description =
        "Show what applying definition files would do, and at what cost. Changes nothing.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex plan examples/garden",
      "With --exit-by-cost the command ends with 0 if nothing would change, 10 if everything happens"
          + " at once, 11 if an edition is filled from stored records, 12 if one is filled from the"
          + " database."
    })
final class PlanCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(
      arity = "1..*",
      paramLabel = "FILE",
      description = "YAML files, or folders with .yaml files")
  private List<Path> files = new ArrayList<>();

  @Option(
      names = "--exit-by-cost",
      description = "report by the exit code what applying takes, for scripts")
  private boolean exitByCost;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client()) {
      PlannedChanges plan = client.plan(DefinitionFiles.read(files));
      if (service.json()) {
        service.printJson(plan);
      } else {
        print(plan);
      }
      return exitByCost ? exitCode(plan.cost()) : ExitCode.DONE;
    }
  }

  private static int exitCode(@Nullable String cost) {
    return switch (cost) {
      case "at once" -> ExitCode.AT_ONCE;
      case "from stored" -> ExitCode.FROM_STORED;
      case "from database" -> ExitCode.FROM_DATABASE;
      case null, default -> ExitCode.DONE;
    };
  }

  private void print(PlannedChanges plan) {
    if (plan.changes().isEmpty()) {
      service.out().println("Nothing would change.");
    }
    for (PlannedChanges.PlannedChange change : plan.changes()) {
      service
          .out()
          .println(
              service.styled("@|bold %s|@").formatted(change.kind() + " " + change.name())
                  + " "
                  + (change.change().equals("new")
                      ? "is new"
                      : "changes to version " + change.version())
                  + (change.cost() == null ? "" : ": " + change.cost()));
      for (PlannedChanges.Difference difference : change.differences()) {
        service
            .out()
            .println(
                "  %-13s  %s: %s"
                    .formatted(difference.cost(), difference.path(), difference.reason()));
      }
      if (change.estimate() != null) {
        print(change.estimate());
      }
    }
    for (PlannedChanges.Warning warning : plan.warnings()) {
      service
          .out()
          .println(
              service.styled("@|bold,yellow !|@ ") + warning.about() + ": " + warning.detail());
    }
    if (!plan.changes().isEmpty()) {
      service.out().println("To apply exactly this: mnemex apply --plan " + plan.plan() + " FILES");
    }
  }

  private void print(PlannedChanges.Estimate estimate) {
    String time =
        estimate.seconds() == null
            ? "an unknown time"
            : estimate.seconds() < 120
                ? "about %d s".formatted(Math.max(1, estimate.seconds()))
                : "about %d min".formatted(Math.ceilDiv(estimate.seconds(), 60));
    service
        .out()
        .println(
            "  a new edition of %s takes %s and %.1f MB of disk, and reads %s (%s)"
                .formatted(
                    Counted.of(estimate.records(), "record"),
                    time,
                    estimate.bytes() / 1e6,
                    estimate.databaseReads() == 0
                        ? "nothing from the database"
                        : Counted.of(estimate.databaseReads(), "record") + " from the database",
                    estimate.basis()));
  }
}
