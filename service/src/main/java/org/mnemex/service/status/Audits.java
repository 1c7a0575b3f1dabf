package org.mnemex.service.status;

import jakarta.annotation.PostConstruct;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.job.JobCancelledException;
import org.mnemex.service.job.JobFailedException;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.JobProgress;
import org.mnemex.service.job.JobWork;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.AuditMapper;
import org.mnemex.sync.audit.Audit;
import org.mnemex.sync.audit.AuditFailedException;
import org.mnemex.sync.audit.AuditProgress;
import org.mnemex.sync.audit.AuditResult;
import org.mnemex.sync.definition.AuditPlan;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.Quarantine;
import org.mnemex.sync.source.Source;
import org.mnemex.sync.source.SourceUnavailableException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Runs audits as jobs, one at a time for each index, and keeps their results. */
@Component
public class Audits {
  private static final Logger LOG = LoggerFactory.getLogger(Audits.class);
  private static final ObjectMapper JSON = JsonMapper.shared();
  private static final int KEPT = 100;
  private static final int SHOWN = 20;

  private final Indexes indexes;
  private final AuditMapper audits;
  private final Quarantine quarantine;
  private final Jobs jobs;
  private final Clock clock;
  private final Set<String> running = ConcurrentHashMap.newKeySet();

  /** The latest audit of each index that ended with a result. */
  private final Map<String, Optional<AuditView>> lastDone = new ConcurrentHashMap<>();

  /** When the latest audit of each index began. */
  private final Map<String, Optional<Instant>> lastBegun = new ConcurrentHashMap<>();

  /** Ends that could not be recorded yet. */
  private final Queue<End> unrecorded = new ConcurrentLinkedQueue<>();

  public Audits(
      Indexes indexes, AuditMapper audits, Quarantine quarantine, Jobs jobs, Clock clock) {
    this.jobs = jobs;
    this.indexes = indexes;
    this.audits = audits;
    this.quarantine = quarantine;
    this.clock = clock;
  }

  /**
   * An audit.
   *
   * @param id number of the audit
   * @param job number of the job that does it; null in lists
   * @param started when it began, ISO 8601, UTC
   * @param state running (also while it waits for others), done or failed
   * @param statement the result in one sentence, or why the audit failed; null while it runs
   * @param clean whether index and database agree; null until that is known
   * @param result the whole result; null until the audit is done
   */
  public record AuditView(
      long id,
      @Nullable Long job,
      String started,
      String state,
      @Nullable String statement,
      @Nullable Boolean clean,
      @Nullable AuditResult result) {}

  /**
   * An audit that was begun.
   *
   * @param keptAs storage name of its index
   */
  private record Begun(long id, String keptAs, Instant at) {}

  /** How an audit ended. */
  private record End(Begun audit, String state, String result) {}

  @PostConstruct
  void start() {
    audits.endAll();
  }

  /**
   * Begins an audit of the live edition.
   *
   * @param repair whether to repair differences
   * @throws ProblemException if there is no such index, or it is being audited
   */
  public AuditView begin(String index, AuditScope scope, boolean repair) {
    Edition live = indexes.live(index);
    Source source = indexes.source(index);
    String keptAs = indexes.keptAs(index);
    if (!running.add(keptAs)) {
      throw new ProblemException(
          ProblemType.AUDIT_RUNNING, "an audit of index '" + index + "' is running already");
    }
    try {
      Instant now = clock.instant();
      Begun begun = new Begun(audits.begin(keptAs, now.toString()), keptAs, now);
      lastBegun.put(keptAs, Optional.of(now));
      long job =
          job(
              begun,
              index,
              new Audit(live, source, quarantine, scope, clock),
              detail(live, scope, repair),
              repair);
      return new AuditView(begun.id, job, now.toString(), "running", null, null, null);
    } catch (RuntimeException e) {
      running.remove(keptAs);
      throw e;
    }
  }

  private long job(Begun begun, String index, Audit audit, String detail, boolean repair) {
    try {
      return jobs.begin(
          JobKind.AUDIT,
          index,
          detail,
          progress -> run(begun, audit.telling(told(progress)), repair));
    } catch (RuntimeException e) {
      end(new End(begun, "failed", String.valueOf(e.getMessage())));
      throw e;
    }
  }

  private static String detail(Edition edition, AuditScope scope, boolean repair) {
    String what =
        switch (scope) {
          case AuditScope.All all -> "all records";
          case AuditScope.Sample sample -> "a sample";
          case AuditScope.Key key -> "record " + key.text();
        };
    return "edition %d, %s%s".formatted(edition.number(), what, repair ? ", with repair" : "");
  }

  private static AuditProgress told(JobProgress progress) {
    return new AuditProgress() {
      @Override
      public void total(long records) {
        progress.total(records);
        progress.say("about %,d records to compare".formatted(records));
      }

      @Override
      public void compared(long records) {
        progress.done(records);
      }
    };
  }

  private JobWork.Outcome run(Begun begun, Audit audit, boolean repair)
      throws JobFailedException, InterruptedException {
    try {
      AuditResult result = audit.run(repair);
      LOG.info("audit of index '{}': {}", result.index(), result.statement());
      end(new End(begun, "done", JSON.writeValueAsString(result)));
      return new JobWork.Outcome(result.statement(), result);
    } catch (AuditFailedException | SourceUnavailableException e) {
      end(new End(begun, "failed", String.valueOf(e.getMessage())));
      throw new JobFailedException(String.valueOf(e.getMessage()), e);
    } catch (JobCancelledException e) {
      end(new End(begun, "failed", "it was cancelled"));
      throw e;
    } catch (RuntimeException | Error e) {
      end(new End(begun, "failed", String.valueOf(e.getMessage())));
      throw e;
    } finally {
      running.remove(begun.keptAs);
    }
  }

  private void end(End end) {
    if (!isRecorded(end)) {
      LOG.warn("the result of an audit could not be recorded yet: {}", end.result);
      unrecorded.add(end);
    }
  }

  /** Records an end, and keeps only the latest audits; false if the disk is full, for example. */
  private boolean isRecorded(End end) {
    try {
      audits.end(end.audit.id, end.state, end.result);
      audits.trim(end.audit.keptAs, KEPT);
      lastDone.remove(end.audit.keptAs);
      return true;
    } catch (RuntimeException e) {
      LOG.debug("an audit's end is not recorded", e);
      return false;
    }
  }

  /** Starts scheduled audits that are due. */
  @Scheduled(fixedDelay = 5, initialDelay = 5, timeUnit = TimeUnit.SECONDS)
  void beginDue() {
    unrecorded.removeIf(this::isRecorded);
    for (IndexDefinition index : indexes.definitions()) {
      AuditPlan plan = index.audits();
      if (plan == null || running.contains(index.keptAs())) {
        continue;
      }
      boolean due =
          lastBegun
              .computeIfAbsent(index.keptAs(), this::readLastBegun)
              .map(last -> last.plus(plan.every()).isBefore(clock.instant()))
              .orElse(true);
      if (due) {
        try {
          begin(index.name(), plan.scope(), plan.repair());
        } catch (RuntimeException e) {
          LOG.debug("no audit of index '{}' yet: {}", index.name(), e.getMessage());
        }
      }
    }
  }

  private Optional<Instant> readLastBegun(String keptAs) {
    return audits.list(keptAs, 1).stream().findFirst().map(row -> Instant.parse(row.started()));
  }

  /** The last audits of an index, newest first. */
  public List<AuditView> list(String index) {
    return audits.list(indexes.keptAs(index), SHOWN).stream().map(Audits::view).toList();
  }

  /** The latest audit of an index that ended with a result; null if there is none. */
  public @Nullable AuditView last(String index) {
    return lastDone
        .computeIfAbsent(
            indexes.keptAs(index),
            keptAs -> Optional.ofNullable(audits.lastDone(keptAs)).map(Audits::view))
        .orElse(null);
  }

  private static AuditView view(AuditMapper.AuditRow row) {
    if (!row.state().equals("done")) {
      return new AuditView(
          row.id(),
          null,
          row.started(),
          row.state(),
          row.state().equals("failed") ? row.result() : null,
          null,
          null);
    }
    AuditResult result = JSON.readValue(row.result(), AuditResult.class);
    return new AuditView(
        row.id(), null, row.started(), row.state(), result.statement(), result.clean(), result);
  }
}
