package org.mnemex.service.status;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.contains;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.timeout;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.AuditMapper;
import org.mnemex.service.store.JobMapper;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.Quarantine;
import tools.jackson.databind.json.JsonMapper;

class AuditsTest {
  private static final int MINUTE_MILLIS = 60_000;

  private final Indexes indexes = mock(Indexes.class);
  private final AuditMapper store = mock(AuditMapper.class);
  private final Quarantine quarantine = mock(Quarantine.class);
  private final Edition live = mock(Edition.class);

  @BeforeEach
  void plants() {
    IndexDefinition plants = mock(IndexDefinition.class);
    when(plants.name()).thenReturn("plants");
    when(plants.keptAs()).thenReturn("plants");
    when(live.definition()).thenReturn(plants);
    when(indexes.live("plants")).thenReturn(live);
    when(indexes.keptAs("plants")).thenReturn("plants");
    when(quarantine.keys(anyString(), eq(0))).thenReturn(Set.of());
  }

  @Test
  void anAuditThatCannotBeginHasFailedAndItsEndIsRecordedOnceThereIsRoom() {
    Jobs jobs = mock(Jobs.class);
    when(jobs.begin(any(), anyString(), anyString(), any()))
        .thenThrow(new ProblemException(ProblemType.TOO_BUSY, "too many audits wait"));
    when(store.begin(anyString(), anyString())).thenReturn(5L);
    doThrow(new IllegalStateException("the disk is full"))
        .doNothing()
        .when(store)
        .end(anyLong(), anyString(), anyString());
    Audits audits = new Audits(indexes, store, quarantine, jobs, Clock.systemUTC());
    assertThatThrownBy(() -> audits.begin("plants", new AuditScope.All(), false))
        .hasMessage("too many audits wait");
    audits.beginDue();
    audits.beginDue();
    verify(store, times(2)).end(5, "failed", "too many audits wait");
    // Another may begin.
    assertThatThrownBy(() -> audits.begin("plants", new AuditScope.All(), false))
        .hasMessage("too many audits wait");
  }

  @Test
  void oneAuditOfAnIndexAtATimeAndWhatItThrowsIsKept() throws Exception {
    CountDownLatch goOn = new CountDownLatch(1);
    when(live.feed())
        .thenAnswer(
            call -> {
              goOn.await();
              throw new IllegalStateException("the feed is gone");
            });
    JobMapper jobs = mock(JobMapper.class);
    when(jobs.begin(anyString(), anyString(), anyString(), anyString(), anyString()))
        .thenReturn(7L);
    Jobs running = new Jobs(jobs, Clock.systemUTC(), JsonMapper.shared());
    Audits audits = new Audits(indexes, store, quarantine, running, Clock.systemUTC());
    assertThat(audits.begin("plants", new AuditScope.All(), false).state()).isEqualTo("running");
    assertThatThrownBy(() -> audits.begin("plants", new AuditScope.All(), false))
        .isInstanceOfSatisfying(
            ProblemException.class,
            problem -> assertThat(problem.type()).isEqualTo(ProblemType.AUDIT_RUNNING));
    goOn.countDown();
    verify(store, timeout(MINUTE_MILLIS))
        .end(anyLong(), eq("failed"), contains("the feed is gone"));
    verify(jobs, timeout(MINUTE_MILLIS))
        .end(
            eq(7L),
            eq("failed"),
            anyString(),
            anyLong(),
            any(),
            contains("the feed is gone"),
            any());
  }
}
