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
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.status.Indexes.Built;

/** Fills of editions as jobs, however short they are. */
class FilledEditionsTest {
  private final Jobs jobs = mock(Jobs.class);
  private final Indexes indexes = mock(Indexes.class);
  private final FilledEditions filled = new FilledEditions(jobs, indexes, Clock.systemUTC());

  @BeforeEach
  void number() {
    when(jobs.watch(eq(JobKind.FILL), anyString(), anyString(), anyString())).thenReturn(7L, 8L);
  }

  private void look(Built... there) {
    when(indexes.built()).thenReturn(List.of(there));
    filled.look();
  }

  private static Built edition(
      String index, String keptAs, int number, String state, long documents) {
    return new Built(index, keptAs, number, state, false, documents, documents, 100);
  }

  private static Built plants(int number, String state, long documents) {
    return edition("plants", "plants", number, state, documents);
  }

  @Test
  void aFillIsWatchedFromItsBeginToItsEnd() {
    look(plants(1, "filling", 40));
    verify(jobs).at(7, 40, 100);
    look(plants(1, "live", 100));
    verify(jobs).ended(7, true, "100 documents; the edition is live");
    look(plants(1, "live", 100), plants(2, "filling", 0));
    look(plants(1, "live", 100));
    verify(jobs).ended(8, false, "the edition was given up");
  }

  @Test
  void aFillBetweenTwoLooksIsListedAndARenamedIndexIsNot() {
    look(plants(1, "live", 100));
    look(plants(1, "live", 100), edition("beds", "beds", 1, "live", 9));
    verify(jobs)
        .watch(eq(JobKind.FILL), eq("beds"), eq("edition 1 from the database"), anyString());
    verify(jobs).ended(7, true, "9 documents; the edition is live");
    look(plants(1, "live", 100), edition("borders", "beds", 1, "live", 9));
    verify(jobs).resumed(JobKind.FILL);
    verify(jobs).at(anyLong(), eq(9L), eq(9L));
    verifyNoMoreInteractions(jobs);
  }
}
