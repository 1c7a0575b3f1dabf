package org.mnemex.cli;

import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "remove",
    description = "Remove a definition. Removing an index removes its editions too.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex remove index plants --yes"})
final class RemoveCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(index = "0", paramLabel = "KIND", description = "source, analyser, index, endpoint")
  private String kind = "";

  @Parameters(index = "1", paramLabel = "NAME", description = "its name")
  private String name = "";

  @Option(names = "--yes", description = "really remove it")
  private boolean sure;

  @Override
  public Integer call() {
    if (!sure) {
      service
          .out()
          .println(
              "This removes %s '%s'%s. Say --yes to do it."
                  .formatted(
                      kind, name, kind.equals("index") ? " with its editions and versions" : ""));
      return ExitCode.REFUSED;
    }
    try (MnemexClient client = service.client()) {
      client.remove(kind, name);
      service.out().println("Removed %s '%s'.".formatted(kind, name));
      return ExitCode.DONE;
    }
  }
}
