package org.mnemex.cli;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.mnemex.client.Analysed;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "analyse",
    description = "Show the tokens of a text after every step of one or more analysers.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex analyse \"The gardener's ferns\" -a words -a garden-notes"})
final class AnalyseCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(paramLabel = "TEXT", description = "the text")
  private String text = "";

  @Option(
      names = {"-a", "--analyser"},
      paramLabel = "NAME",
      description = "an analyser; may be repeated (default: words)")
  private List<String> analysers = new ArrayList<>();

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      List<Analysed> answers =
          client.analyse(text, analysers.isEmpty() ? List.of("words") : analysers);
      if (service.json()) {
        service.printJson(answers);
        return ExitCode.DONE;
      }
      for (Analysed answer : answers) {
        service.out().println(service.styled("@|bold " + answer.analyser() + "|@"));
        Table table = new Table("  step", "tokens");
        for (Analysed.Step step : answer.steps()) {
          table.row("  " + step.step(), tokens(step));
        }
        table.print(service.out());
      }
      return ExitCode.DONE;
    }
  }

  /**
   * Tokens with a dot for each position that stays empty; a slash before one that stands at the
   * same position as the one before.
   */
  private static String tokens(Analysed.Step step) {
    if (step.text() != null) {
      return step.text();
    }
    List<String> shown = new ArrayList<>();
    int position = 0;
    for (Analysed.Token token : step.tokens()) {
      for (; position < token.position(); position++) {
        shown.add("·");
      }
      shown.add((token.position() < position ? "/" : "") + token.text());
      position = token.position() + 1;
    }
    return shown.stream().collect(Collectors.joining("  "));
  }
}
