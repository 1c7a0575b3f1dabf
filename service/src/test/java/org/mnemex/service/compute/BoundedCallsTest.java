package org.mnemex.service.compute;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

class BoundedCallsTest {
  private final CountDownLatch interrupted = new CountDownLatch(1);

  private boolean waitForEver() {
    try {
      new CountDownLatch(1).await();
      return true;
    } catch (InterruptedException e) {
      interrupted.countDown();
      return false;
    }
  }

  @Test
  void whatTakesTooLongIsGivenUpAndInterrupted() throws Exception {
    BoundedCalls calls = new BoundedCalls(1, 1, Duration.ofMillis(20));
    assertThatThrownBy(() -> calls.run("waiting", this::waitForEver))
        .isInstanceOfSatisfying(
            ProblemException.class, e -> assertThat(e.type()).isEqualTo(ProblemType.TOO_SLOW))
        .hasMessageContaining("waiting took longer");
    assertThat(interrupted.await(1, TimeUnit.MINUTES)).isTrue();
    assertThat(calls.run("adding", () -> 1 + 1)).isEqualTo(2);
    calls.destroy();
  }

  @Test
  void whatFailsFailsAsItIsAndTooManyAreRefused() throws Exception {
    BoundedCalls calls = new BoundedCalls(1, 1, Duration.ofMinutes(1));
    ProblemException problem = new ProblemException(ProblemType.BAD_BODY, "no", null);
    assertThatThrownBy(
            () ->
                calls.run(
                    "failing",
                    () -> {
                      throw problem;
                    }))
        .isSameAs(problem);
    CountDownLatch running = new CountDownLatch(1);
    CountDownLatch goOn = new CountDownLatch(1);
    Thread first =
        Thread.ofVirtual()
            .start(
                () ->
                    calls.run(
                        "first",
                        () -> {
                          running.countDown();
                          return goOn.await(1, TimeUnit.MINUTES);
                        }));
    running.await();
    Thread second = Thread.ofVirtual().start(() -> calls.run("second", () -> 2));
    while (second.getState() != Thread.State.TIMED_WAITING) {
      Thread.onSpinWait();
    }
    assertThatThrownBy(() -> calls.run("third", () -> 3))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("third could not start: the limits of 1 running and 1 waiting calls");
    goOn.countDown();
    first.join();
    second.join();
    calls.destroy();
  }
}
