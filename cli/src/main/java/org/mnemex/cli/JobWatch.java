package org.mnemex.cli;

import java.util.Locale;
import org.mnemex.client.JobEntry;
import org.mnemex.client.MnemexClient;

/** Waits for a job, and prints how far it is. */
final class JobWatch {
  private static final long POLL_MILLIS = 500;
  private static final int PERCENT = 100;

  private final Service service;

  JobWatch(Service service) {
    this.service = service;
  }

  /** The job once it is over. */
  JobEntry watch(MnemexClient client, JobEntry first) throws InterruptedException {
    JobEntry job = first;
    String said = "";
    while (!job.isOver()) {
      String now = progress(job);
      if (!now.equals(said) && !service.json()) {
        service.out().println(job.state() + ": " + now);
        service.out().flush();
        said = now;
      }
      Thread.sleep(POLL_MILLIS);
      job = client.jobs().one(job.id());
    }
    return job;
  }

  /** How far a job is. */
  static String progress(JobEntry job) {
    StringBuilder told = new StringBuilder("%,d".formatted(job.done()));
    if (job.total() != null) {
      told.append(" of %,d".formatted(job.total()));
      if (job.total() > 0 && !job.isOver()) {
        told.append(" (%d%%)".formatted(PERCENT * job.done() / job.total()));
      }
    }
    if (job.perSecond() != null) {
      told.append(String.format(Locale.ROOT, ", %,.0f a second", job.perSecond()));
    }
    if (job.secondsLeft() != null) {
      told.append(", %,d s left".formatted(job.secondsLeft()));
    }
    return told.toString();
  }
}
