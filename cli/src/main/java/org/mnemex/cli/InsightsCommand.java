package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.EndpointSearches;
import org.mnemex.client.InsightClient;
import org.mnemex.client.InsightEntry;
import org.mnemex.client.Listed;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.OpenedRecord;
import org.mnemex.client.SearchesOverTime;
import org.mnemex.client.TableFormat;
import org.mnemex.client.UsedFacet;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "insights",
    description =
        "Show what people search for, find and open. Nothing says who they are. Without an"
            + " endpoint, count the searches of each.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex insights plant-search --report without-results --days 30",
      "         mnemex insights plant-search --over-time",
      "         mnemex insights plant-search --opened --as csv"
    })
final class InsightsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(index = "0", arity = "0..1", paramLabel = "ENDPOINT", description = "the endpoint")
  private @Nullable String endpoint;

  @ArgGroup(exclusive = true)
  private Wanted wanted = new Wanted();

  /** One of them. */
  private static final class Wanted {
    @Option(
        names = "--report",
        paramLabel = "NAME",
        description =
            "frequent, without-results, few-results, never-opened, far-down, slow, rising,"
                + " later-pages, mended or curated; default: frequent")
    private String report = "frequent";

    @Option(names = "--over-time", description = "count all searches by hour or day instead")
    private boolean overTime;

    @Option(names = "--facets", description = "count the searches that chose from each facet")
    private boolean facets;

    @Option(
        names = "--opened",
        description = "list the records that people opened, with suggested grades for scorecards")
    private boolean opened;
  }

  @Option(
      names = "--days",
      paramLabel = "N",
      description = "how many days back; default: ${DEFAULT-VALUE}")
  private int days = 7;

  @Option(names = "--limit", paramLabel = "N", description = "default: ${DEFAULT-VALUE}")
  private int limit = 20;

  @Option(
      names = "--least",
      paramLabel = "N",
      description =
          "with --opened: only words with at least so many opens; default: ${DEFAULT-VALUE}")
  private int least = 20;

  @Option(
      names = "--as",
      paramLabel = "FORMAT",
      description = "print for other programs: csv or ndjson")
  private @Nullable TableFormat format;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      InsightClient insights = client.insights();
      if (endpoint == null) {
        print(insights.byEndpoint(days), this::printEndpoints);
      } else if (wanted.overTime) {
        print(insights.overTime(endpoint, days), this::printTimes);
      } else if (wanted.facets) {
        print(insights.facets(endpoint, days), this::printFacets);
      } else if (wanted.opened) {
        print(insights.opened(endpoint, least, days, limit), this::printOpened);
      } else {
        print(insights.report(endpoint, wanted.report, days, limit), this::printRows);
      }
      return ExitCode.DONE;
    }
  }

  private <T> void print(Listed<T> listed, Consumer<List<T>> table) {
    if (format != null) {
      service.out().print(listed.as(format).replace("\r\n", "\n"));
      service.out().flush();
      return;
    }
    List<T> rows = listed.rows();
    if (service.json()) {
      service.printJson(rows);
    } else if (rows.isEmpty()) {
      service.out().println("No such searches in the last %d days.".formatted(days));
    } else {
      table.accept(rows);
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
            ">opened",
            ">at place",
            ">later pages",
            ">mended",
            ">curated",
            ">mean ms",
            ">slowest");
    for (InsightEntry row : rows) {
      table.row(
          row.words(),
          whole(row.searches()),
          whole(row.before()),
          whole(row.withoutResults()),
          whole(row.fewResults()),
          "%,.0f".formatted(row.meanResults()),
          whole(row.opened()),
          row.meanPosition() == null ? "" : decimal(row.meanPosition()),
          whole(row.laterPages()),
          whole(row.relaxed() + row.corrected()),
          whole(row.curated()),
          decimal(row.meanMillis()),
          decimal(row.slowest()));
    }
    table.print(service.out());
  }

  private void printEndpoints(List<EndpointSearches> rows) {
    Table table = new Table("endpoint", ">searches", ">no results", ">opened", ">mean ms");
    for (EndpointSearches row : rows) {
      table.row(
          row.endpoint(),
          whole(row.searches()),
          whole(row.withoutResults()),
          whole(row.opened()),
          decimal(row.meanMillis()));
    }
    table.print(service.out());
  }

  private void printTimes(List<SearchesOverTime> times) {
    Table table = new Table("time (UTC)", ">searches", ">no results", ">opened", ">mean ms");
    for (SearchesOverTime time : times) {
      table.row(
          time.time(),
          whole(time.searches()),
          whole(time.withoutResults()),
          whole(time.opened()),
          decimal(time.meanMillis()));
    }
    table.print(service.out());
  }

  private void printFacets(List<UsedFacet> facets) {
    Table table = new Table("facet", ">searches");
    facets.forEach(facet -> table.row(facet.facet(), whole(facet.searches())));
    table.print(service.out());
  }

  private void printOpened(List<OpenedRecord> rows) {
    Table table = new Table("words", "key", ">opens", ">share", ">grade");
    for (OpenedRecord row : rows) {
      table.row(
          row.words(),
          row.key(),
          whole(row.opens()),
          "%.0f%%".formatted(100 * row.share()),
          whole(row.grade()));
    }
    table.print(service.out());
  }

  private static String whole(long number) {
    return "%,d".formatted(number);
  }

  private static String decimal(double number) {
    return "%,.1f".formatted(number);
  }
}
