package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
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
    description =
        "Draft an index and an endpoint for a table, or for the records of a file, with a reason for every line.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex draft garden accession --out accession.yaml",
      "         mnemex draft --file tools.csv --out tools.yaml",
      "Read it, change what is wrong, then: mnemex apply accession.yaml"
    })
final class DraftCommand implements Callable<Integer> {
  private static final Pattern INDEX = Pattern.compile("(?m)^index: (\\S+)");

  @Mixin private Service service = new Service();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(index = "0", arity = "0..1", paramLabel = "SOURCE", description = "the source")
  private @Nullable String source;

  @Parameters(
      index = "1",
      arity = "0..1",
      paramLabel = "TABLE",
      description = "the table whose rows are records")
  private @Nullable String table;

  @Option(
      names = "--file",
      paramLabel = "FILE",
      description = "instead of a table: a file of records, .csv, .json or lines of JSON")
  private @Nullable Path file;

  @Option(names = "--out", paramLabel = "FILE", description = "write it to a file")
  private @Nullable Path out;

  @Override
  public Integer call() throws IOException {
    if (out != null && Files.exists(out)) {
      throw new ParameterException(spec.commandLine(), out + " exists already");
    }
    try (MnemexClient client = service.client()) {
      String yaml = draft(client);
      if (out == null) {
        service.out().print(yaml);
        service.out().flush();
      } else {
        Files.writeString(out, yaml);
        service.out().println("Wrote " + out + ". Read it, then: mnemex apply " + out);
        if (file != null) {
          Matcher index = INDEX.matcher(yaml);
          String name = index.find() ? index.group(1) : "INDEX";
          service.out().println("Then: mnemex import " + file + " -i " + name);
        }
      }
      return ExitCode.DONE;
    }
  }

  private String draft(MnemexClient client) throws IOException {
    if (file == null && source != null && table != null) {
      return client.source(source).draft(table);
    }
    if (file == null || source != null) {
      throw new ParameterException(
          spec.commandLine(), "draft needs SOURCE and TABLE, or --file and a file");
    }
    if (!Files.isRegularFile(file)) {
      throw new ParameterException(spec.commandLine(), file + " does not exist");
    }
    FileSample sample = FileSample.of(file);
    return client.draft(sample.name(), sample.format(), sample.text());
  }
}
