package org.mnemex.service.compute;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

class SearchSlotsTest {
  private static final int SLOTS = Runtime.getRuntime().availableProcessors();
  private static final int MINUTE_MILLIS = 60_000;

  private final SearchSlots slots = new SearchSlots();
  private final CountDownLatch end = new CountDownLatch(1);
  private final List<Thread> searching = new ArrayList<>();

  @BeforeEach
  void allSlotsAreTaken() throws InterruptedException {
    CountDownLatch begun = new CountDownLatch(SLOTS);
    for (int i = 0; i < SLOTS; i++) {
      searching.add(
          Thread.ofVirtual()
              .start(
                  () ->
                      slots.run(
                          MINUTE_MILLIS,
                          () -> {
                            begun.countDown();
                            awaitEnd();
                            return true;
                          })));
    }
    begun.await();
  }

  private void awaitEnd() {
    try {
      end.await();
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  @AfterEach
  void letThemEnd() throws InterruptedException {
    end.countDown();
    for (Thread thread : searching) {
      thread.join();
    }
  }

  @Test
  void whoFindsNoRoomInTimeIsTurnedAway() {
    assertThatThrownBy(() -> slots.run(1, () -> "found"))
        .isInstanceOfSatisfying(
            ProblemException.class,
            problem -> assertThat(problem.type()).isEqualTo(ProblemType.TOO_BUSY))
        .hasMessageContaining("within 1 ms");
    end.countDown();
    assertThat(slots.run(MINUTE_MILLIS, () -> "found")).isEqualTo("found");
  }

  @Test
  void whoWaitsWhileTheServiceStopsIsTold() {
    Thread.currentThread().interrupt();
    assertThatThrownBy(() -> slots.run(MINUTE_MILLIS, () -> "found"))
        .isInstanceOfSatisfying(
            ProblemException.class,
            problem -> assertThat(problem.type()).isEqualTo(ProblemType.STOPPING));
    assertThat(Thread.interrupted()).isTrue();
  }
}
