package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.ScoreEntry;
import org.mnemex.client.Scored;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "score",
    description = "Measure search quality with a scorecard.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex score gardeners --edition 2"})
final class ScoreCommand implements Callable<Integer> {
  private static final int MISSING_SHOWN = 5;

  @Mixin private Service service = new Service();

  @Parameters(index = "0", paramLabel = "SCORECARD")
  private String scorecard = "";

  @Option(names = "--edition", paramLabel = "EDITION", description = "instead of the live edition")
  private @Nullable Integer edition;

  @Option(
      names = "--settings",
      paramLabel = "FILE",
      description =
          "ask with this definition of the endpoint, which is not applied; nothing is kept")
  private @Nullable Path settings;

  @Option(names = "--history", description = "show earlier scores, oldest first")
  private boolean history;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client()) {
      if (history) {
        print(client.quality().scores(scorecard));
      } else {
        print(
            client
                .quality()
                .score(scorecard, edition, settings == null ? null : Files.readString(settings)));
      }
      return ExitCode.DONE;
    }
  }

  private void print(Scored scored) {
    if (service.json()) {
      service.printJson(scored);
      return;
    }
    Table table =
        new Table(
            "query",
            ">nDCG@" + scored.top(),
            ">MRR",
            ">precision",
            ">recall",
            "not among the first");
    for (Scored.ScoredQuery query : scored.queries()) {
      row(
          table,
          query.words(),
          query.score(),
          query.problem() == null ? missing(query) : query.problem());
    }
    row(table, "all " + scored.queries().size(), scored.total(), "edition " + scored.edition());
    table.print(service.out());
  }

  private static String missing(Scored.ScoredQuery query) {
    List<String> missing = query.missing();
    return missing.size() <= MISSING_SHOWN
        ? String.join(", ", missing)
        : String.join(", ", missing.subList(0, MISSING_SHOWN))
            + " and %d more".formatted(missing.size() - MISSING_SHOWN);
  }

  private static void row(Table table, String name, Scored.Score score, String remark) {
    table.row(
        name,
        number(score.ndcg()),
        number(score.reciprocalRank()),
        number(score.precision()),
        number(score.recall()),
        remark);
  }

  private static String number(double value) {
    return String.format(Locale.ROOT, "%.3f", value);
  }

  private void print(List<ScoreEntry> entries) {
    if (service.json()) {
      service.printJson(entries);
      return;
    }
    Table table =
        new Table("at", ">edition", ">index version", ">nDCG", ">MRR", ">precision", ">recall");
    for (ScoreEntry entry : entries) {
      table.row(
          entry.at(),
          entry.edition(),
          entry.indexVersion(),
          number(entry.ndcg()),
          number(entry.reciprocalRank()),
          number(entry.precision()),
          number(entry.recall()));
    }
    table.print(service.out());
  }
}
