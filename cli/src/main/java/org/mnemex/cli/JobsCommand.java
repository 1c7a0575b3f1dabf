package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.JobEntry;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "jobs",
    description =
        "List what takes long: fills, audits, comparisons, scores, compactions, imports, exports,"
            + " backups, restores. With a number, show that job,"
            + " its log and its result.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex jobs", "         mnemex jobs 12 --watch"})
final class JobsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(index = "0", arity = "0..1", paramLabel = "ID", description = "number of a job")
  private @Nullable Long id;

  @ArgGroup(exclusive = true)
  private Wanted wanted = new Wanted();

  /** One of them. */
  private static final class Wanted {
    @Option(names = "--watch", description = "with ID: print its progress until it is over")
    private boolean watch;

    @Option(names = "--cancel", description = "with ID: let it end at its next step")
    private boolean cancel;
  }

  @Option(names = "--limit", paramLabel = "N", description = "default: ${DEFAULT-VALUE}")
  private int limit = 20;

  @Override
  public Integer call() throws InterruptedException {
    try (MnemexClient client = service.client()) {
      if (id == null) {
        print(client.jobs().list(limit));
        return ExitCode.DONE;
      }
      JobEntry job = wanted.cancel ? client.jobs().cancel(id) : client.jobs().one(id);
      if (wanted.watch) {
        job = new JobWatch(service).watch(client, job);
      }
      print(job);
      return job.state().equals("failed") ? ExitCode.FAILED : ExitCode.DONE;
    }
  }

  private void print(List<JobEntry> jobs) {
    if (service.json()) {
      service.printJson(jobs);
      return;
    }
    if (jobs.isEmpty()) {
      service.out().println("No jobs yet.");
      return;
    }
    Table table = new Table(">id", "what", "about", "begun", "state", "how far, or how it ended");
    for (JobEntry job : jobs) {
      table.row(
          Long.toString(job.id()),
          job.kind(),
          job.about() + ", " + job.detail(),
          job.started(),
          job.state(),
          job.message() == null ? JobWatch.progress(job) : job.message());
    }
    table.print(service.out());
  }

  private void print(JobEntry job) {
    if (service.json()) {
      service.printJson(job);
      return;
    }
    service.out().printf("%s of %s, %s%n", job.kind(), job.about(), job.detail());
    service
        .out()
        .printf(
            "%s, begun %s%s, %s%n",
            job.state(),
            job.started(),
            job.ended() == null ? "" : ", ended " + job.ended(),
            JobWatch.progress(job));
    if (job.message() != null) {
      service.out().println(job.message());
    }
    if (job.log() != null) {
      job.log().forEach(line -> service.out().println("  " + line.at() + "  " + line.text()));
    }
  }
}
