package org.mnemex.service.compute;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.IntFunction;
import java.util.function.IntUnaryOperator;
import java.util.function.Supplier;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

class SearchSlotsTest {
  private static final int SLOTS = 3;
  private static final int MINUTE_MILLIS = 60_000;

  /** Documents enough for any number of parts. */
  private static final long MANY = 1_000_000;

  private final SearchSlots slots = new SearchSlots(SLOTS);
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
                            await(end);
                            return true;
                          })));
    }
    begun.await();
  }

  private static void await(CountDownLatch latch) {
    try {
      latch.await();
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
  void onlyWhoTakesTheLastSlotIsHandedToAnotherThread() throws InterruptedException {
    letThemEnd();
    Thread own = Thread.currentThread();
    List<Thread> computing = new ArrayList<>();
    Supplier<Boolean> last = () -> computing.add(Thread.currentThread());
    slots.run(
        MINUTE_MILLIS,
        () -> {
          computing.add(Thread.currentThread());
          return slots.run(
              MINUTE_MILLIS,
              () -> {
                computing.add(Thread.currentThread());
                return slots.run(MINUTE_MILLIS, last);
              });
        });
    assertThat(computing).startsWith(own, own).hasSize(SLOTS);
    assertThat(computing.getLast()).isNotSameAs(own);
  }

  @Test
  void freeSlotsHelpAtTheSameTime() throws InterruptedException {
    letThemEnd();
    CountDownLatch all = new CountDownLatch(SLOTS);
    assertThat(
            slots.run(
                MINUTE_MILLIS,
                () ->
                    slots.share(
                        MANY,
                        parts(
                            part -> {
                              all.countDown();
                              await(all);
                              return part;
                            }))))
        .containsExactly(1, 2, 3);
    assertThat(slots.<Integer>share(8_000, parts(part -> part))).containsExactly(1, 2);
    assertThat(slots.<Integer>share(7_999, parts(part -> part))).containsExactly(1);
  }

  @Test
  void nobodyHelpsWhoIsNeeded() {
    assertThat(slots.<Integer>share(MANY, parts(part -> part))).containsExactly(1);
  }

  @ParameterizedTest
  @ValueSource(booleans = {true, false})
  void whatFailsIsToldWhenAllHaveEnded(boolean first) throws InterruptedException {
    letThemEnd();
    AtomicInteger count = new AtomicInteger();
    AtomicInteger ended = new AtomicInteger();
    assertThatThrownBy(
            () ->
                slots.share(
                    MANY,
                    told -> {
                      count.set(told);
                      return parts(
                              part -> {
                                ended.incrementAndGet();
                                if (part == (first ? 1 : 1 + SLOTS)) {
                                  throw new IllegalArgumentException("part " + part);
                                }
                                return part;
                              })
                          .apply(told);
                    }))
        .hasMessage("part " + (first ? 1 : 1 + SLOTS));
    assertThat(count).hasValue(1 + SLOTS);
    assertThat(ended).hasValue(1 + SLOTS);
  }

  private static IntFunction<List<Supplier<Integer>>> parts(IntUnaryOperator work) {
    return count ->
        IntStream.rangeClosed(1, count)
            .<Supplier<Integer>>mapToObj(part -> () -> work.applyAsInt(part))
            .toList();
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
