package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.AuditReport;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "audit",
    description = "Compare the index with the database, record by record.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex audit --repair",
      "Exit code 1 if they differ, or if that is unknown."
    })
final class AuditCommand implements Callable<Integer> {
  private static final long POLL_MILLIS = 200;
  private static final int KEYS_SHOWN = 10;

  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Option(names = "--repair", description = "read records that differ again")
  private boolean repair;

  @Option(
      names = "--sample",
      paramLabel = "SHARE",
      description =
          "examine enough random records to notice, with 95%% confidence, if more than a share of"
              + " them differs, like 0.1%%")
  private @Nullable String sample;

  @Option(names = "--key", paramLabel = "KEY", description = "look at one record")
  private @Nullable String key;

  @Option(names = "--history", description = "list past audits instead of starting one")
  private boolean history;

  @Override
  public Integer call() throws InterruptedException {
    try (MnemexClient client = service.client()) {
      String name = index.name(client);
      if (history) {
        print(client.audits(name));
        return ExitCode.DONE;
      }
      AuditReport report =
          key != null
              ? client.auditRecord(name, key, repair)
              : sample != null
                  ? client.auditSample(name, sample, repair)
                  : client.audit(name, repair);
      while (report.state().equals("running")) {
        Thread.sleep(POLL_MILLIS);
        long id = report.id();
        report = client.audits(name).stream().filter(r -> r.id() == id).findFirst().orElse(report);
      }
      if (service.json()) {
        service.printJson(report);
      } else {
        print(report);
      }
      return Boolean.TRUE.equals(report.clean()) ? ExitCode.DONE : ExitCode.FAILED;
    }
  }

  private void print(List<AuditReport> reports) {
    if (service.json()) {
      service.printJson(reports);
      return;
    }
    Table table = new Table("begun", "state", "result");
    for (AuditReport report : reports) {
      table.row(
          report.started(), report.state(), report.statement() == null ? "" : report.statement());
    }
    table.print(service.out());
  }

  private void print(AuditReport report) {
    AuditReport.Result result = report.result();
    String color = Boolean.TRUE.equals(report.clean()) ? "green" : "red";
    service.out().println(service.styled("@|bold,%s %s|@".formatted(color, report.statement())));
    if (result == null) {
      return;
    }
    keys("missing", "in the database, not in the index", result.missing());
    keys("stale", "the index shows something else", result.stale());
    keys("extra", "in the index, not in the database", result.extra());
    keys("needless", "in quarantine without a reason", result.needless());
    service
        .out()
        .printf(
            "edition %d, %s compared in %.1f s%s%n",
            result.edition(),
            Counted.of(result.records(), "record"),
            result.millis() / 1000.0,
            result.repaired() ? "; the feed reads the differences again" : "");
  }

  private void keys(String what, String meaning, List<String> keys) {
    if (!keys.isEmpty()) {
      List<String> shown = keys.subList(0, Math.min(keys.size(), KEYS_SHOWN));
      service
          .out()
          .printf(
              "  %-8s %s: %s%s%n",
              what, meaning, String.join(", ", shown), keys.size() > shown.size() ? ", …" : "");
    }
  }
}
