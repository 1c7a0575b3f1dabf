package org.mnemex.cli;

import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.Suggested;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "suggest",
    description = "Complete a text as it is typed.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex suggest plant-search harts to"})
final class SuggestCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(index = "0", paramLabel = "ENDPOINT", description = "the endpoint")
  private String endpoint = "";

  @Parameters(index = "1..*", paramLabel = "TEXT", description = "what was typed so far")
  private List<String> text = new ArrayList<>();

  @Option(names = "--size", paramLabel = "N", description = "how many at most")
  private int size = 8;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      List<Suggested> suggestions = client.suggest(endpoint, String.join(" ", text), size);
      if (service.json()) {
        service.printJson(suggestions);
        return ExitCode.DONE;
      }
      Table table = new Table("completion", "from", "record");
      for (Suggested suggestion : suggestions) {
        table.row(
            suggestion.text(), from(suggestion), Objects.requireNonNullElse(suggestion.key(), ""));
      }
      table.print(service.out());
      return ExitCode.DONE;
    }
  }

  private static String from(Suggested suggestion) {
    String of = suggestion.field() == null ? suggestion.facet() : suggestion.field();
    return of == null ? suggestion.from() : suggestion.from() + " of " + of;
  }
}
