package org.mnemex.service.backup;

import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyBoolean;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.contains;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.mnemex.service.install.RestoredData;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.status.Indexes.IndexStatus;

class RestoredIndexesTest {
  private static final long JOB = 7;

  private final RestoredData restored = mock(RestoredData.class);
  private final Jobs jobs = mock(Jobs.class);
  private final Indexes indexes = mock(Indexes.class);
  private final RestoredIndexes watching =
      new RestoredIndexes(restored, jobs, indexes, Clock.systemUTC());

  private static IndexStatus waiting(String problem) {
    return new IndexStatus("plants", "garden", 1, false, false, null, problem, null, null, null);
  }

  /** As on a machine that lacks the variable with the source's password. */
  @Test
  void itIsSaidOnceWhatAnIndexWaitsFor() {
    when(restored.mark())
        .thenReturn(
            new RestoredData.Mark("monday", "2026-05-04T08:00:00Z", false, Map.of("plants", 1)));
    when(jobs.watch(any(JobKind.class), anyString(), anyString(), anyString())).thenReturn(JOB);
    when(indexes.all())
        .thenReturn(
            List.of(waiting("not running: no MNEMEX_GARDEN_PASSWORD")),
            List.of(waiting("not running: no MNEMEX_GARDEN_PASSWORD")),
            List.of(waiting("not running: another reason")));
    watching.look();
    watching.look();
    verify(jobs, times(1)).say(JOB, "index 'plants' waits: not running: no MNEMEX_GARDEN_PASSWORD");
    watching.look();
    verify(jobs).say(anyLong(), contains("another reason"));
    verify(jobs, never()).ended(anyLong(), anyBoolean(), anyString());
  }
}
