package org.mnemex.service.job;

import io.micrometer.core.instrument.Metrics;
import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.JobMapper;
import org.mnemex.service.store.JobMapper.JobRow;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Runs jobs, a few of each kind at a time, and keeps what became of them. */
@Component
public class Jobs {
  private static final Logger LOG = LoggerFactory.getLogger(Jobs.class);
  private static final int KEPT = 1000;
  private static final int MAX_LINES = 200;
  private static final int WAITING = 32;
  private static final int RETRY_SECONDS = 30;
  private static final int MAX_SHOWN = 500;

  private final JobMapper jobs;
  private final Clock clock;
  private final JsonMapper json;
  private final Map<Long, RunningJob> running = new ConcurrentHashMap<>();
  private final Map<JobKind, ThreadPoolExecutor> threads = new EnumMap<>(JobKind.class);

  public Jobs(JobMapper jobs, Clock clock, JsonMapper json) {
    this.jobs = jobs;
    this.clock = clock;
    this.json = json;
    for (JobKind kind : JobKind.values()) {
      if (kind.atOnce() > 0) {
        threads.put(kind, executor(kind));
      }
    }
  }

  /** Jobs compute for a long time, so they do not share the threads of searches. */
  private static ThreadPoolExecutor executor(JobKind kind) {
    ThreadPoolExecutor executor =
        new ThreadPoolExecutor(
            kind.atOnce(),
            kind.atOnce(),
            1,
            TimeUnit.MINUTES,
            new ArrayBlockingQueue<>(WAITING),
            Thread.ofPlatform().daemon().name(kind.word() + "-", 1).factory());
    executor.allowCoreThreadTimeOut(true);
    return executor;
  }

  @PostConstruct
  void start() {
    jobs.interruptAllBut(JobKind.FILL.word(), clock.instant().toString());
  }

  @PreDestroy
  void stop() {
    threads.values().forEach(ThreadPoolExecutor::shutdownNow);
  }

  /**
   * Begins a job.
   *
   * @param about the name of the index, endpoint or scorecard that it is about
   * @param detail what of it
   * @return its number
   * @throws ProblemException 503 if too many of its kind wait
   */
  public long begin(JobKind kind, String about, String detail, JobWork work) {
    ThreadPoolExecutor executor = threads.get(kind);
    if (executor == null) {
      throw new IllegalArgumentException("something else does this");
    }
    long id = jobs.begin(kind.word(), about, detail, "waiting", clock.instant().toString());
    RunningJob job = new RunningJob(kind);
    running.put(id, job);
    try {
      executor.execute(() -> run(id, job, work));
    } catch (RejectedExecutionException e) {
      end(id, "failed", "too many jobs of this kind were waiting", null);
      throw new ProblemException(
              ProblemType.TOO_BUSY, "%d jobs of this kind are waiting already".formatted(WAITING))
          .retryAfter(RETRY_SECONDS);
    }
    jobs.trim(KEPT);
    jobs.trimLines();
    return id;
  }

  private void run(long id, RunningJob job, JobWork work) {
    try {
      jobs.state(id, "running");
      // Also one that was cancelled as it waited: it ends at its first step, and tidies up.
      JobWork.Outcome outcome = work.run(job.progress(line -> say(id, line)));
      end(
          id,
          "done",
          outcome.message(),
          outcome.result() == null ? null : json.writeValueAsString(outcome.result()));
    } catch (JobCancelledException e) {
      cancelled(id);
    } catch (JobFailedException | ProblemException e) {
      end(id, "failed", String.valueOf(e.getMessage()), null);
    } catch (InterruptedException e) {
      // The service stops, which is recorded at its next start.
      Thread.currentThread().interrupt();
    } catch (RuntimeException | Error e) {
      LOG.error("job {} failed", id, e);
      end(id, "failed", String.valueOf(e.getMessage()), null);
    } finally {
      running.remove(id);
    }
  }

  /** Notes the end of a watched job that was cancelled. */
  void cancelled(long id) {
    end(id, "cancelled", "it was cancelled", null);
  }

  private void end(long id, String state, String message, @Nullable String result) {
    RunningJob job = running.remove(id);
    if (job != null) {
      Metrics.timer("mnemex.jobs", "kind", job.kind().word(), "state", state)
          .record(job.nanos(), TimeUnit.NANOSECONDS);
    }
    try {
      jobs.end(
          id,
          state,
          clock.instant().toString(),
          job == null ? 0 : job.done(),
          job == null ? null : job.total(),
          message,
          result);
    } catch (RuntimeException e) {
      // A full disk: at the next start, the job is recorded as interrupted.
      LOG.warn("the end of job {} could not be recorded: {}", id, message, e);
    }
  }

  /** Adds a line to the log of a job. */
  public void say(long id, String line) {
    jobs.say(id, clock.instant().toString(), line, MAX_LINES);
  }

  /** Notes a job that something else does, and that goes on after a restart. */
  public long watch(JobKind kind, String about, String detail, String started) {
    return watch(new RunningJob(kind), about, detail, started);
  }

  /** Notes a job that something else does. */
  long watch(RunningJob job, String about, String detail, String started) {
    long id = jobs.begin(job.kind().word(), about, detail, "running", started);
    running.put(id, job);
    jobs.trim(KEPT);
    return id;
  }

  /**
   * Watches what streams to or from a caller; it is on record as a job once it has taken a moment.
   *
   * @param about the name of the index that it is about
   * @param total how many records will pass; null if that is not known
   */
  public StreamedJob stream(JobKind kind, String about, @Nullable Long total) {
    return new StreamedJob(this, kind, about, total, clock.instant().toString());
  }

  /** Jobs of a kind that had not ended when the service stopped. */
  public List<JobRow> resumed(JobKind kind) {
    List<JobRow> open = jobs.open(kind.word());
    open.forEach(row -> running.putIfAbsent(row.id(), new RunningJob(kind)));
    return open;
  }

  /** Notes how far a watched job is. */
  public void at(long id, long done, long total) {
    RunningJob job = running.get(id);
    if (job != null) {
      job.at(done, total);
    }
  }

  /** Notes the end of a watched job. */
  public void ended(long id, boolean well, String message) {
    end(id, well ? "done" : "failed", message, null);
  }

  /**
   * The latest jobs, newest first.
   *
   * @param about only those about this; or null
   */
  public List<JobView> list(@Nullable String about, int limit) {
    return jobs.list(about, Math.clamp(limit, 1, MAX_SHOWN)).stream()
        .map(row -> view(row, false))
        .toList();
  }

  /**
   * A job with its log and result.
   *
   * @throws ProblemException 404 if there is none of this number
   */
  public JobView one(long id) {
    return view(row(id), true);
  }

  private JobRow row(long id) {
    JobRow row = jobs.one(id);
    if (row == null) {
      throw new ProblemException(ProblemType.UNKNOWN_JOB, "there is no job " + id);
    }
    return row;
  }

  private JobView view(JobRow row, boolean whole) {
    RunningJob job = running.get(row.id());
    RunningJob.Moment moment =
        job == null ? new RunningJob.Moment(row.done(), row.total(), null, null) : job.moment();
    return new JobView(
        row.id(),
        row.kind(),
        row.about(),
        row.detail(),
        row.state(),
        row.started(),
        row.ended(),
        moment.done(),
        moment.total(),
        moment.perSecond(),
        moment.left(),
        row.message(),
        whole ? row.result() : null,
        whole ? jobs.lines(row.id()) : null);
  }

  /**
   * Lets a job end at its next step.
   *
   * @throws ProblemException 404 if there is none of this number, 409 if it has ended or cannot be
   *     cancelled
   */
  public JobView cancel(long id) {
    JobRow row = row(id);
    RunningJob job = running.get(id);
    if (row.ended() != null || job == null) {
      throw new ProblemException(ProblemType.JOB_ENDED, "job %d has ended".formatted(id));
    }
    if (job.kind() == JobKind.RESTORE) {
      throw new ProblemException(
          ProblemType.JOB_ENDED, "what is restored already cannot be taken back");
    }
    if (job.kind() == JobKind.FILL) {
      throw new ProblemException(
          ProblemType.JOB_ENDED,
          "an edition that is being filled ends with its definition: apply the former version of"
              + " index '%s'".formatted(row.about()));
    }
    job.cancel();
    return view(row, true);
  }
}
