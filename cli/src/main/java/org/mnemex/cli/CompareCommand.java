package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.CompareRequest;
import org.mnemex.client.ComparedEditions;
import org.mnemex.client.ComparedEditions.ComparedQuery;
import org.mnemex.client.ComparedEditions.ComparedResult;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "compare",
    description =
        "Run the same queries on two editions, and show what changed. Without numbers: the"
            + " live one and the next one, or else the previous one.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex compare plant-search \"late frost\" slugs",
      "Without queries, the most frequent ones are used."
    })
final class CompareCommand implements Callable<Integer> {
  private static final int LABEL_WIDTH = 34;

  @Mixin private Service service = new Service();

  @Parameters(index = "0", paramLabel = "ENDPOINT")
  private String endpoint = "";

  @Parameters(index = "1..*", arity = "0..*", paramLabel = "QUERY")
  private List<String> queries = new ArrayList<>();

  @Option(names = "--left", paramLabel = "EDITION", description = "instead of the live edition")
  private @Nullable Integer left;

  @Option(
      names = "--right",
      paramLabel = "EDITION",
      description = "instead of the next or previous edition")
  private @Nullable Integer right;

  @Option(
      names = "--settings",
      paramLabel = "FILE",
      description = "use this endpoint definition for the second edition, without applying it")
  private @Nullable Path settings;

  @Option(
      names = "--with",
      paramLabel = "FILE",
      description =
          "compare the live edition as it is and as it would be under these definitions, such as"
              + " synonyms, without applying them; may be repeated")
  private List<Path> with = new ArrayList<>();

  @Option(
      names = "--top",
      paramLabel = "N",
      description = "results of each query; ${DEFAULT-VALUE}")
  private int top = 10;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client()) {
      ComparedEditions compared =
          client
              .quality()
              .compare(
                  endpoint,
                  CompareRequest.of(queries, top)
                      .between(left, right)
                      .settings(settings == null ? null : Files.readString(settings))
                      .with(with.isEmpty() ? Map.of() : DefinitionFiles.read(with)));
      if (service.json()) {
        service.printJson(compared);
      } else {
        print(compared);
      }
      return ExitCode.DONE;
    }
  }

  private void print(ComparedEditions compared) {
    service
        .out()
        .println(
            String.format(
                Locale.ROOT,
                "%s, %s: %.1f%% of the first %d results differ.",
                with.isEmpty()
                    ? "Editions %d and %d".formatted(compared.left(), compared.right())
                    : "Edition %d now and with the files".formatted(compared.left()),
                Counted.of(compared.queries().size(), "query", "queries"),
                100 * compared.changedShare(),
                compared.top()));
    zero("Find nothing any more", compared.toZero());
    zero("Found nothing before", compared.fromZero());
    int same = 0;
    for (ComparedQuery query : compared.queries()) {
      if (query.problem() != null) {
        service.out().println();
        service
            .out()
            .println(service.styled("@|bold,red !|@ ") + query.words() + ": " + query.problem());
      } else if (query.sameOrder() && query.leftTotal() == query.rightTotal()) {
        same++;
      } else {
        print(query, compared);
      }
    }
    if (same > 0) {
      service.out().println();
      service
          .out()
          .println(
              same == 1
                  ? "1 query has the same results."
                  : same + " queries have the same results.");
    }
  }

  private void zero(String what, List<String> words) {
    if (!words.isEmpty()) {
      service
          .out()
          .println(service.styled("@|bold,yellow !|@ ") + what + ": " + String.join(", ", words));
    }
  }

  private void print(ComparedQuery query, ComparedEditions compared) {
    service.out().println();
    service
        .out()
        .println(
            service.styled("@|bold %s|@").formatted(query.words())
                + ": %,d → %s, %d of the first %d changed"
                    .formatted(
                        query.leftTotal(),
                        Counted.of(query.rightTotal(), "result"),
                        query.changed(),
                        compared.top()));
    Table table =
        new Table(
            ">",
            "edition " + compared.left(),
            "",
            with.isEmpty() ? "edition " + compared.right() : "with the files",
            "");
    for (int i = 0; i < Math.max(query.left().size(), query.right().size()); i++) {
      ComparedResult leftOne = i < query.left().size() ? query.left().get(i) : null;
      ComparedResult rightOne = i < query.right().size() ? query.right().get(i) : null;
      table.row(
          i + 1,
          label(leftOne),
          leftOne != null && leftOne.other() == null ? "goes" : "",
          label(rightOne),
          rightOne == null ? "" : move(rightOne, i + 1));
    }
    table.print(service.out());
  }

  private static String label(@Nullable ComparedResult result) {
    if (result == null) {
      return "";
    }
    String text = result.key() + " " + result.label();
    return text.length() > LABEL_WIDTH ? text.substring(0, LABEL_WIDTH - 1) + "…" : text;
  }

  private static String move(ComparedResult result, int place) {
    if (result.other() == null) {
      return "comes";
    }
    int moved = result.other() - place;
    return moved == 0 ? "" : moved > 0 ? "up " + moved : "down " + -moved;
  }
}
