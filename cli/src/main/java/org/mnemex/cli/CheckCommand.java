package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.mnemex.grammar.DefinitionProblem;
import org.mnemex.grammar.ParsedFile;
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
    List<DefinitionProblem> problems = new ArrayList<>();
    int definitions = 0;
    for (Map.Entry<String, String> file : DefinitionFiles.read(files).entrySet()) {
      ParsedFile parsed = ParsedFile.read(file.getKey(), file.getValue());
      problems.addAll(parsed.problems());
      definitions += parsed.parts().size();
    }
    if (service.json()) {
      service.printJson(problems);
    } else {
      problems.forEach(service.out()::println);
      service
          .out()
          .println(
              problems.isEmpty()
                  ? Counted.of(definitions, "definition is", "definitions are") + " well formed."
                  : "%s in %s."
                      .formatted(
                          Counted.of(problems.size(), "problem"),
                          Counted.of(definitions, "definition")));
    }
    return problems.isEmpty() ? ExitCode.DONE : ExitCode.REFUSED;
  }
}
