package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.mnemex.client.InsightEntry;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchesOverTime;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "insights",
    description = "Show what people search for and what they find. Nothing says who they are.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex insights plant-search --report without-results --days 30",
      "         mnemex insights plant-search --over-time"
    })
final class InsightsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(index = "0", paramLabel = "ENDPOINT", description = "the endpoint")
  private String endpoint = "";

  @Option(
      names = "--report",
      paramLabel = "NAME",
      description =
          "frequent, without-results, few-results, slow, rising, later-pages, mended or curated;"
              + " default: ${DEFAULT-VALUE}")
  private String report = "frequent";

  @Option(
      names = "--days",
      paramLabel = "N",
      description = "how many days back; default: ${DEFAULT-VALUE}")
  private int days = 7;

  @Option(names = "--limit", paramLabel = "N", description = "default: ${DEFAULT-VALUE}")
  private int limit = 20;

  @Option(names = "--over-time", description = "count all searches by hour or day instead")
  private boolean overTime;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      if (overTime) {
        List<SearchesOverTime> times = client.quality().searchesOverTime(endpoint, days);
        if (service.json()) {
          service.printJson(times);
        } else {
          print(times);
        }
        return ExitCode.DONE;
      }
      List<InsightEntry> rows = client.quality().insights(endpoint, report, days, limit);
      if (service.json()) {
        service.printJson(rows);
      } else if (rows.isEmpty()) {
        service.out().println("No such searches in the last %d days.".formatted(days));
      } else {
        printRows(rows);
      }
      return ExitCode.DONE;
    }
  }

  private void printRows(List<InsightEntry> rows) {
    Table table =
        new Table(
            "words",
            ">searches",
            ">before",
            ">no results",
            ">1 or 2",
            ">mean results",
            ">later pages",
            ">mended",
            ">curated",
            ">mean ms",
            ">slowest");
    for (InsightEntry row : rows) {
      table.row(
          row.words(),
          "%,d".formatted(row.searches()),
          "%,d".formatted(row.before()),
          "%,d".formatted(row.withoutResults()),
          "%,d".formatted(row.fewResults()),
          "%,.0f".formatted(row.meanResults()),
          "%,d".formatted(row.laterPages()),
          "%,d".formatted(row.relaxed() + row.corrected()),
          "%,d".formatted(row.curated()),
          "%,.1f".formatted(row.meanMillis()),
          "%,.1f".formatted(row.slowest()));
    }
    table.print(service.out());
  }

  private void print(List<SearchesOverTime> times) {
    Table table = new Table("time (UTC)", ">searches", ">no results", ">mean ms");
    for (SearchesOverTime time : times) {
      table.row(
          time.time(),
          "%,d".formatted(time.searches()),
          "%,d".formatted(time.withoutResults()),
          "%,.1f".formatted(time.meanMillis()));
    }
    table.print(service.out());
  }
}
