package org.mnemex.sync.feed;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import org.junit.jupiter.api.Test;

class BatchSizeTest {
  private static final Duration FRESHEST = Duration.ofMillis(200);
  private static final int USUAL = 5000;

  private final BatchSize batch = new BatchSize(USUAL);

  /** Applies so many batches, each full, at a rate in changes per millisecond. */
  private long flood(int batches, int rate) {
    long late = 0;
    for (int i = 0; i < batches; i++) {
      late = batch.next() / rate;
      batch.applied(batch.next(), Duration.ofMillis(late).toNanos(), FRESHEST);
    }
    return late;
  }

  @Test
  void batchesGrowWithAFloodUntilChangesWouldBeLate() {
    assertThat(flood(50, 100)).isBetween(100L, 200L);
    assertThat(batch.next()).isGreaterThan(USUAL);
  }

  @Test
  void batchesShrinkWhereEachChangeTakesLong() {
    assertThat(flood(50, 10)).isBetween(100L, 200L);
    assertThat(batch.next()).isLessThan(USUAL);
  }

  @Test
  void neitherWithoutEnd() {
    flood(100, 1_000_000);
    assertThat(batch.next()).isEqualTo(10 * USUAL);
    for (int i = 0; i < 100; i++) {
      batch.applied(1, FRESHEST.multipliedBy(2).toNanos(), FRESHEST);
    }
    assertThat(batch.next()).isEqualTo(USUAL / 10);
  }

  @Test
  void fewChangesAreNoReasonToWaitForMore() {
    batch.applied(USUAL - 1, 1, FRESHEST);
    assertThat(batch.next()).isEqualTo(USUAL);
  }
}
