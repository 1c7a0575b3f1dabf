package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.Pushed;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "import",
    description = "Push records from a file to an index over a push source.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex import tools.ndjson -i tools",
      "NDJSON, or CSV if the name ends so. Exit code 1 if a line was refused."
    })
final class ImportCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(paramLabel = "FILE", description = "lines of JSON, or CSV")
  private Path file = Path.of("");

  @Option(names = "--act", description = "replace (default), merge into what is there, or delete")
  private String act = "replace";

  @Override
  public Integer call() throws IOException {
    if (!Files.isRegularFile(file)) {
      throw new ParameterException(spec.commandLine(), file + " does not exist");
    }
    try (MnemexClient client = service.client()) {
      Pushed pushed =
          client.push(
              index.name(client),
              file,
              act,
              (line, why) ->
                  spec.commandLine().getErr().println("%s:%d: %s".formatted(file, line, why)));
      if (service.json()) {
        service.printJson(pushed);
      } else {
        service
            .out()
            .println("%,d records taken, %,d refused.".formatted(pushed.taken(), pushed.refused()));
      }
      return pushed.refused() == 0 ? ExitCode.DONE : ExitCode.FAILED;
    }
  }
}
