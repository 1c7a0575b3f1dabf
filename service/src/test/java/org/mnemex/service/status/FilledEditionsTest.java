package org.mnemex.service.status;

import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.verifyNoMoreInteractions;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.status.Indexes.EditionStatus;
import org.mnemex.service.status.Indexes.IndexStatus;
import org.mnemex.sync.feed.FeedStatus;

/** Fills of editions as jobs, however short they are. */
class FilledEditionsTest {
  private final Jobs jobs = mock(Jobs.class);
  private final Indexes indexes = mock(Indexes.class);
  private final FilledEditions filled = new FilledEditions(jobs, indexes, Clock.systemUTC());

  @BeforeEach
  void number() {
    when(jobs.watch(eq(JobKind.FILL), anyString(), anyString(), anyString())).thenReturn(7L, 8L);
    when(indexes.keptAs(anyString())).thenAnswer(call -> call.getArgument(0));
  }

  private void look(IndexStatus... there) {
    when(indexes.all()).thenReturn(List.of(there));
    filled.look();
  }

  private static IndexStatus index(
      String name, @Nullable EditionStatus live, @Nullable EditionStatus next) {
    return new IndexStatus(name, "garden", 1, true, false, null, null, live, next, null);
  }

  private static EditionStatus edition(int number, String state, long done) {
    return new EditionStatus(
        number,
        1,
        state,
        false,
        null,
        done,
        0,
        1,
        0,
        FeedStatus.Phase.LIVE,
        null,
        null,
        null,
        null,
        null,
        done,
        100,
        0,
        0,
        0,
        0);
  }

  @Test
  void aFillIsWatchedFromItsBeginToItsEnd() {
    look(index("plants", null, edition(1, "filling", 40)));
    verify(jobs).at(7, 40, 100);
    look(index("plants", edition(1, "live", 100), null));
    verify(jobs).ended(7, true, "100 documents; the edition is live");
    look(index("plants", edition(1, "live", 100), edition(2, "filling", 0)));
    look(index("plants", edition(1, "live", 100), null));
    verify(jobs).ended(8, false, "the edition was given up");
  }

  @Test
  void aFillBetweenTwoLooksIsListedAndARenamedIndexIsNot() {
    look(index("plants", edition(1, "live", 100), null));
    look(
        index("plants", edition(1, "live", 100), null), index("beds", edition(1, "live", 9), null));
    verify(jobs)
        .watch(eq(JobKind.FILL), eq("beds"), eq("edition 1 from the database"), anyString());
    verify(jobs).ended(7, true, "9 documents; the edition is live");
    when(indexes.keptAs("borders")).thenReturn("beds");
    look(
        index("plants", edition(1, "live", 100), null),
        index("borders", edition(1, "live", 9), null));
    verify(jobs).resumed(JobKind.FILL);
    verify(jobs).at(anyLong(), eq(9L), eq(9L));
    verifyNoMoreInteractions(jobs);
  }
}
