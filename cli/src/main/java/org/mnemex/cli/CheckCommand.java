package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

@Command(
    name = "check",
    description =
        "Check definition files by themselves, without a service: keys, types and words. What a"
            + " database or other definitions decide, 'plan' checks.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex check examples/garden"})
final class CheckCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(
      arity = "1..*",
      paramLabel = "FILE",
      description = "YAML files, or folders with .yaml files")
  private List<Path> files = new ArrayList<>();

  @Override
  public Integer call() throws IOException {
    DefinitionCheck check = new DefinitionCheck();
    for (Map.Entry<String, String> file : DefinitionFiles.read(files).entrySet()) {
      check.check(file.getKey(), file.getValue());
    }
    if (service.json()) {
      service.printJson(check.problems());
    } else {
      check.problems().forEach(problem -> service.out().println(Mnemex.line(problem)));
      service
          .out()
          .println(
              check.problems().isEmpty()
                  ? "%d definitions are well formed.".formatted(check.definitions())
                  : "%d problems in %d definitions."
                      .formatted(check.problems().size(), check.definitions()));
    }
    return check.problems().isEmpty() ? ExitCode.DONE : ExitCode.REFUSED;
  }
}
