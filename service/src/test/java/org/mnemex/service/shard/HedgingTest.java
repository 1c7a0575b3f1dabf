package org.mnemex.service.shard;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Supplier;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.error.QueryRefusedException;

class HedgingTest {
  private final Hedging hedging = new Hedging(2);
  private final AtomicInteger second = new AtomicInteger();

  private String second() {
    second.incrementAndGet();
    return "second";
  }

  private static Supplier<String> failing(RuntimeException e) {
    return () -> {
      throw e;
    };
  }

  @Test
  void whatASlowNodeDoesNotAnswerIsAskedOfAnotherOne() throws InterruptedException {
    CountDownLatch givenUp = new CountDownLatch(1);
    Supplier<String> silent =
        () -> {
          try {
            new CountDownLatch(1).await();
            return "never";
          } catch (InterruptedException e) {
            givenUp.countDown();
            throw new ShardAwayException("given up", e);
          }
        };
    assertThat(hedging.ask(silent, this::second)).isEqualTo("second");
    givenUp.await();
  }

  @Test
  void aNodeThatAnswersIsAskedAlone() {
    for (int i = 0; i < 1_000; i++) {
      assertThat(hedging.ask(() -> "first", null)).isEqualTo("first");
    }
    assertThat(hedging.ask(() -> "first", () -> "second")).isIn("first", "second");
  }

  @Test
  void anotherNodeIsAskedIfOneCannotBe() {
    Supplier<String> away = failing(new ShardAwayException("gone"));
    // Not limited: nothing is asked twice.
    for (int i = 0; i < 100; i++) {
      assertThat(hedging.ask(away, this::second)).isEqualTo("second");
    }
    assertThat(second).hasValue(100);
    assertThatThrownBy(() -> hedging.ask(away, failing(new ShardAwayException("gone as well"))))
        .isInstanceOf(ShardAwayException.class)
        .hasMessage("gone as well");
    assertThatThrownBy(() -> hedging.ask(away, null)).hasMessage("gone");
  }

  @Test
  void whatIsRefusedIsNotAskedAgain() {
    Supplier<String> refused = failing(new QueryRefusedException("too much"));
    assertThatThrownBy(() -> hedging.ask(refused, this::second)).hasMessage("too much");
  }

  @Test
  void whereAllAreSlowFewAreAskedTwice() {
    Supplier<String> slow =
        () -> {
          // Answers only after the second one was asked, or it is clear that it is not.
          long asked = second.get();
          long start = System.nanoTime();
          while (second.get() == asked && System.nanoTime() - start < 3L * hedging.usual()) {
            Thread.onSpinWait();
          }
          return "first";
        };
    Supplier<String> never =
        () -> {
          second.incrementAndGet();
          try {
            new CountDownLatch(1).await();
          } catch (InterruptedException e) {
            throw new ShardAwayException("given up", e);
          }
          return "never";
        };
    for (int i = 0; i < 12; i++) {
      assertThat(hedging.ask(slow, never)).isEqualTo("first");
    }
    // Two, and one of ten more.
    assertThat(second.get()).isBetween(1, 3);
  }
}
