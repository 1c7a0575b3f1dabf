package org.mnemex.service.care;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.service.job.JobKind;
import org.mnemex.service.job.Jobs;
import org.mnemex.service.status.Indexes;
import org.mnemex.service.store.JobMapper;
import org.mnemex.service.store.JobMapper.JobRow;
import org.mnemex.sync.definition.CompactPlan;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.Edition;
import tools.jackson.databind.json.JsonMapper;

/** When an index is compacted by itself. */
class CompactionsTest {
  private static final Schema SCHEMA =
      new Schema(List.of(Field.of("height", FieldType.INTEGER, null, Use.SORT)));
  private static final int DOCUMENTS = 100;

  /** In summer, London is an hour before UTC. */
  private static final Instant TWO_IN_LONDON = Instant.parse("2026-07-01T01:00:00Z");

  @TempDir private Path folder;
  private final Clock clock = mock(Clock.class);
  private final Jobs jobs = mock(Jobs.class);
  private final Indexes indexes = mock(Indexes.class);
  private final IndexDefinition plants = mock(IndexDefinition.class);
  private final Compactions compactions = new Compactions(indexes, jobs, clock);

  private void at(Instant now) {
    when(clock.instant()).thenReturn(now);
    compactions.beginDue();
  }

  private void verifyBegun(int times) {
    verify(jobs, times(times)).begin(eq(JobKind.COMPACT), eq("plants"), anyString(), any());
  }

  @Test
  void onceANightIfEnoughIsDeleted() throws Exception {
    when(plants.name()).thenReturn("plants");
    when(plants.compact())
        .thenReturn(new CompactPlan(LocalTime.of(2, 0), ZoneId.of("Europe/London"), 0.1));
    when(indexes.definitions()).thenReturn(List.of(plants));
    Edition live = mock(Edition.class);
    when(indexes.live("plants")).thenReturn(live);
    try (EditionFolder edition = EditionFolder.open(folder, SCHEMA)) {
      for (int i = 0; i < DOCUMENTS; i++) {
        edition.put(new Document("p" + i, Map.of("height", List.of((long) i)), new byte[0], i));
      }
      edition.refresh(Checkpoint.NONE);
      for (int i = 0; i < DOCUMENTS / 10; i++) {
        edition.delete("p" + i);
      }
      when(indexes.snapshot("plants")).thenReturn(edition.refresh(Checkpoint.NONE));
      at(TWO_IN_LONDON);
      verifyBegun(0);
      edition.delete("p99");
      when(indexes.snapshot("plants")).thenReturn(edition.refresh(Checkpoint.NONE));
      at(TWO_IN_LONDON.minusSeconds(1));
      at(TWO_IN_LONDON.plus(CompactPlan.WINDOW));
      verifyBegun(0);
      at(TWO_IN_LONDON.plus(Duration.ofMinutes(30)));
      verifyBegun(1);
      // It may have failed, and the night is not over.
      at(TWO_IN_LONDON.plus(Duration.ofMinutes(31)));
      verifyBegun(1);
      at(TWO_IN_LONDON.plus(Duration.ofDays(1)));
    }
    // The job of the first night has not ended.
    verifyBegun(1);
  }

  @Test
  void oneThatIsCancelledWhileItWaitsCanBeBegunAgain() throws Exception {
    JobMapper records = mock(JobMapper.class);
    when(records.begin(anyString(), anyString(), anyString(), anyString(), any()))
        .thenReturn(1L, 2L, 3L);
    when(records.one(2L))
        .thenReturn(new JobRow(2, "compact", "b", "", "waiting", "", null, 0, null, null, null));
    CountDownLatch goOn = new CountDownLatch(1);
    CountDownLatch over = new CountDownLatch(2);
    doAnswer(
            call -> {
              over.countDown();
              return null;
            })
        .when(records)
        .end(anyLong(), anyString(), any(), anyLong(), any(), any(), any());
    when(clock.instant()).thenReturn(TWO_IN_LONDON);
    Jobs real = new Jobs(records, clock, JsonMapper.shared());
    Compactions waiting = new Compactions(indexes, real, clock);
    Edition live = mock(Edition.class);
    when(live.folder())
        .thenAnswer(
            call -> {
              goOn.await();
              throw new IllegalStateException("the folder is gone");
            });
    when(indexes.live(anyString())).thenReturn(live);
    assertThat(waiting.begin("a")).isEqualTo(1);
    assertThat(waiting.begin("b")).isEqualTo(2);
    assertThat(waiting.begin("b")).isEqualTo(2);
    real.cancel(2);
    goOn.countDown();
    over.await();
    verify(records).end(eq(2L), eq("cancelled"), any(), anyLong(), any(), any(), any());
    assertThat(waiting.begin("b")).isEqualTo(3);
  }
}
