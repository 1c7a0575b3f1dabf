package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "draft",
    description = "Draft an index and an endpoint for a table, with a reason for every line.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex draft garden accession --out accession.yaml",
      "Read it, change what is wrong, then: mnemex apply accession.yaml"
    })
final class DraftCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(index = "0", paramLabel = "SOURCE", description = "the source")
  private String source = "";

  @Parameters(index = "1", paramLabel = "TABLE", description = "the table whose rows are records")
  private String table = "";

  @Option(names = "--out", paramLabel = "FILE", description = "write it to a file")
  private @Nullable Path out;

  @Override
  public Integer call() throws IOException {
    if (out != null && Files.exists(out)) {
      throw new ParameterException(spec.commandLine(), out + " exists already");
    }
    try (MnemexClient client = service.client()) {
      String yaml = client.source(source).draft(table);
      if (out == null) {
        service.out().print(yaml);
        service.out().flush();
      } else {
        Files.writeString(out, yaml);
        service.out().println("Wrote " + out + ". Read it, then: mnemex apply " + out);
      }
      return ExitCode.DONE;
    }
  }
}
