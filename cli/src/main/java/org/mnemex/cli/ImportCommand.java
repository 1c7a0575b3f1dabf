package org.mnemex.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.PushProgress;
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
      "NDJSON; a list of objects if the name ends with .json, a table if it ends with .csv.",
      "Exit code 1 if a line was refused."
    })
final class ImportCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(
      paramLabel = "FILE",
      description = "lines of JSON, a list of objects (.json) or CSV (.csv)")
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
          client.push(index.name(client)).file(file, act, new Told(spec.commandLine().getErr()));
      if (service.json()) {
        service.printJson(pushed);
      } else {
        service
            .out()
            .println(
                "%s taken, %,d refused."
                    .formatted(Counted.of(pushed.taken(), "record"), pushed.refused()));
      }
      return pushed.refused() == 0 ? ExitCode.DONE : ExitCode.FAILED;
    }
  }

  /** Tells of refused lines, and now and then of how many are taken. */
  private final class Told implements PushProgress {
    private static final long EVERY = 20_000;
    private final PrintWriter err;

    Told(PrintWriter err) {
      this.err = err;
    }

    @Override
    public void refused(long line, String why) {
      err.println("%s:%d: %s".formatted(file, line, why));
    }

    @Override
    public void taken(long records) {
      if (records % EVERY == 0) {
        err.println(Counted.of(records, "record") + " taken …");
      }
    }
  }
}
