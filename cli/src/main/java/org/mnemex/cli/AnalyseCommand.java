package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Analysed;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.TriedAnalyser;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "analyse",
    description =
        "Show the tokens of a text after every step of one or more analysers; or what another"
            + " analyser would change about a field.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex analyse \"The gardener's ferns\" -a words -a garden-notes",
      "         mnemex analyse --field notes -i plants -a english"
    })
final class AnalyseCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Mixin private IndexOption index = new IndexOption();

  @Parameters(arity = "0..1", paramLabel = "TEXT", description = "the text")
  private @Nullable String text;

  @Option(
      names = "--field",
      paramLabel = "FIELD",
      description = "instead of a text: a field of the index, on whose values to try the analyser")
  private @Nullable String field;

  @Option(
      names = "--file",
      paramLabel = "FILE",
      description = "with --field: the definition of an analyser, applied or not")
  private @Nullable Path file;

  @Spec private CommandSpec spec = CommandSpec.create();

  @Option(
      names = {"-a", "--analyser"},
      paramLabel = "NAME",
      description = "an analyser; may be repeated (default: words)")
  private List<String> analysers = new ArrayList<>();

  @Override
  public Integer call() throws IOException {
    if ((text == null) == (field == null)) {
      throw new CommandLine.ParameterException(
          spec.commandLine(), "give a text, or a field of an index with --field");
    }
    try (MnemexClient client = service.client()) {
      if (field != null) {
        print(tried(client, field));
        return ExitCode.DONE;
      }
      List<Analysed> answers =
          client.analyse(String.valueOf(text), analysers.isEmpty() ? List.of("words") : analysers);
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

  private TriedAnalyser tried(MnemexClient client, String name) throws IOException {
    String of = index.name(client);
    return file != null
        ? client.tryDefinition(of, name, Files.readString(file))
        : client.tryAnalyser(of, name, analysers.isEmpty() ? "words" : analysers.getFirst());
  }

  private void print(TriedAnalyser tried) {
    if (service.json()) {
      service.printJson(tried);
      return;
    }
    TriedAnalyser.Outcome documents = tried.documents();
    service
        .out()
        .println(
            "Field '%s' with '%s' instead of '%s': %,d of %,d sampled documents would get different terms."
                .formatted(
                    tried.field(),
                    tried.after(),
                    tried.before(),
                    documents.touched(),
                    documents.looked()));
    Table terms = new Table("goes", ">documents", "comes", ">documents");
    for (int i = 0; i < Math.max(documents.goes().size(), documents.comes().size()); i++) {
      TriedAnalyser.TermCount goes = i < documents.goes().size() ? documents.goes().get(i) : null;
      TriedAnalyser.TermCount comes =
          i < documents.comes().size() ? documents.comes().get(i) : null;
      terms.row(
          goes == null ? "" : goes.term(),
          goes == null ? "" : goes.documents(),
          comes == null ? "" : comes.term(),
          comes == null ? "" : comes.documents());
    }
    terms.print(service.out());
    if (!tried.queries().isEmpty()) {
      service.out().println();
      Table queries = new Table("recorded query", "now", "then");
      for (TriedAnalyser.TouchedQuery query : tried.queries()) {
        queries.row(
            query.words(), String.join("  ", query.before()), String.join("  ", query.after()));
      }
      queries.print(service.out());
    }
  }

  /** Tokens, with a dot for each empty position and a slash before tokens at the same position. */
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
