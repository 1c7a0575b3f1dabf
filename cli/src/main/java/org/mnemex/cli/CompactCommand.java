package org.mnemex.cli;

import java.io.IOException;
import java.util.concurrent.Callable;
import org.mnemex.client.JobEntry;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

@Command(
    name = "compact",
    description = {
      "Merge all segments of the live edition into one, without deleted documents. Searches and"
          + " changes go on.",
      "Needed rarely: segments are merged by themselves. It helps after very many deletions; an"
          + " index can also do it every night ('compact' in its definition)."
    },
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex compact -i plants",
      "'mnemex status --sizes plants' tells how much it would save."
    })
final class CompactCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Override
  public Integer call() throws IOException, InterruptedException {
    try (MnemexClient client = service.client()) {
      JobEntry job = new JobWatch(service).watch(client, client.jobs().compact(index.name(client)));
      if (service.json()) {
        service.printJson(job);
      } else {
        service.out().println(job.message());
      }
      return job.state().equals("done") ? ExitCode.DONE : ExitCode.FAILED;
    }
  }
}
