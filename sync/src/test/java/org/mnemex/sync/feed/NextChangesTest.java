package org.mnemex.sync.feed;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.mnemex.sync.source.Changes;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Source;

class NextChangesTest {
  /** However long it takes to apply changes: what came meanwhile is not in them. */
  @Test
  void documentsAreAsTrueAsTheLookAtTheSource() {
    NextChanges changes =
        new NextChanges(mock(Source.Capture.class), Clock.systemUTC(), Duration.ofMillis(250));
    long looked = System.nanoTime();
    Instant after = Instant.now();
    Changes none = new Changes(List.of(), new Position("wal-1", 7), true, false, looked);
    while (Instant.now().isBefore(after.plusMillis(30))) {
      Thread.onSpinWait();
    }
    changes.areVisible(none, Instant.now());
    assertThat(changes.trueAt()).isBeforeOrEqualTo(after).isAfter(after.minusSeconds(1));
  }
}
