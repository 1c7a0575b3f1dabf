package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Applied;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "apply",
    description = "Apply definition files: all of them or none.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex apply examples/garden"})
final class ApplyCommand implements Callable<Integer> {
  private static final long POLL_MILLIS = 100;

  @Mixin private Service service = new Service();

  @Parameters(
      arity = "1..*",
      paramLabel = "FILE",
      description = "YAML files, or folders with .yaml files")
  private List<Path> files = new ArrayList<>();

  @Option(
      names = "--prepare",
      description = "also create what is needed in the databases: see 'mnemex source check'")
  private boolean prepare;

  @Option(
      names = "--plan",
      paramLabel = "NAME",
      description = "apply exactly the plan of this name, or nothing")
  private @Nullable String plan;

  @Option(
      names = "--hold",
      description = "let new editions wait for 'mnemex promote' when they are complete")
  private boolean hold;

  @Option(
      names = "--wait",
      description = "come back when new editions are live, or wait for approval")
  private boolean wait;

  @Override
  public Integer call() throws IOException, InterruptedException {
    try (MnemexClient client = service.client()) {
      List<Applied> applied =
          client.apply(DefinitionFiles.read(files), new ApplyOptions(prepare, plan, hold));
      if (service.json()) {
        service.printJson(applied);
      } else {
        print(applied);
      }
      return wait ? await(client, applied) : ExitCode.DONE;
    }
  }

  private int await(MnemexClient client, List<Applied> applied) throws InterruptedException {
    int exitCode = ExitCode.DONE;
    for (Applied one : applied) {
      if (one.edition() == null) {
        continue;
      }
      IndexStatus index = client.index(one.name());
      while (index.next() != null
          && index.held() == null
          && index.next().number() == one.edition()) {
        Thread.sleep(POLL_MILLIS);
        index = client.index(one.name());
      }
      IndexStatus.Edition next = index.next();
      if (next != null && index.held() != null) {
        service
            .out()
            .println(
                "Edition %d of index '%s' is complete: %s. To promote it: mnemex promote"
                    .formatted(next.number(), index.name(), index.held()));
        exitCode = hold ? exitCode : ExitCode.FAILED;
      } else {
        IndexStatus.Edition live = index.live();
        service
            .out()
            .println(
                "Edition %d of index '%s' is live now."
                    .formatted(live == null ? one.edition() : live.number(), index.name()));
      }
    }
    return exitCode;
  }

  private void print(List<Applied> applied) {
    Table table = new Table("definition", "name", "change", ">version", "takes", "");
    for (Applied one : applied) {
      table.row(
          one.kind(),
          one.name(),
          one.change(),
          one.version(),
          one.cost() == null ? "" : one.cost(),
          one.edition() == null ? "" : "filling edition " + one.edition());
    }
    table.print(service.out());
  }
}
