package org.mnemex.cli;

import java.io.IOException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Unmatched;

@Command(
    name = "serve",
    description = "Start the service on ./mnemex-data, until Ctrl-C.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Settings are arguments of the service, for example:",
      "  mnemex serve --server.port=7078 --mnemex.data=/srv/mnemex"
    })
final class ServeCommand implements Callable<Integer> {
  @Parameters(arity = "0..*", hidden = true)
  private List<String> arguments = new ArrayList<>();

  @Unmatched private List<String> settings = new ArrayList<>();

  @Override
  public Integer call() throws IOException, InterruptedException {
    List<String> all = new ArrayList<>(arguments);
    all.addAll(settings);
    Process service = ServiceProcess.start(all, null, Map.of());
    Runtime.getRuntime().addShutdownHook(new Thread(() -> ServiceProcess.stop(service)));
    return service.waitFor() == 0 ? ExitCode.DONE : ExitCode.FAILED;
  }
}
