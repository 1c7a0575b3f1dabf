package org.mnemex.service.condition;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;

/** When conditions begin and end. */
class HeldConditionsTest {
  private static final Instant START = Instant.parse("2026-05-01T08:00:00Z");
  private static final Duration QUIET = Duration.ofSeconds(60);
  private static final Duration PATIENCE = Duration.ofSeconds(20);

  private static Look behind(boolean holds) {
    return Look.whether(holds, Condition.BEHIND, "plants", PATIENCE, "plants is behind");
  }

  private static String at(HeldConditions held, int second, Look... looks) {
    StringBuilder told = new StringBuilder();
    held.take(List.of(looks), START.plusSeconds(second))
        .forEach(
            change ->
                told.append(change.begun() ? "+" : "-").append(change.held().condition().word()));
    return told.toString();
  }

  @Test
  void beginsAfterItsPatienceAndEndsWhenItIsQuiet() {
    HeldConditions held = new HeldConditions(QUIET, List.of());
    assertThat(at(held, 0, behind(true))).isEmpty();
    assertThat(at(held, 10, behind(false))).isEmpty();
    // Interrupted: it begins anew.
    assertThat(at(held, 15, behind(true))).isEmpty();
    assertThat(at(held, 30, behind(true))).isEmpty();
    assertThat(at(held, 35, behind(true))).isEqualTo("+behind");
    assertThat(held.all().getFirst().since()).isEqualTo(START.plusSeconds(15));
    assertThat(at(held, 40, behind(false))).isEmpty();
    assertThat(at(held, 90, behind(true))).isEmpty();
    assertThat(at(held, 95, behind(false))).isEmpty();
    assertThat(at(held, 154, behind(false))).isEmpty();
    assertThat(at(held, 155, behind(false))).isEqualTo("-behind");
    assertThat(held.all()).isEmpty();
  }

  @Test
  void whatIsNotLookedAtAnyMoreEnds() {
    HeldConditions.Held known =
        new HeldConditions.Held(Condition.STOPPED, "gone", START, "gone has stopped");
    HeldConditions held = new HeldConditions(QUIET, List.of(known));
    assertThat(held.all()).containsExactly(known);
    assertThat(at(held, 0)).isEmpty();
    assertThat(at(held, 60)).isEqualTo("-stopped");
  }

  /** However a value moves around its limit, it is not told again and again. */
  @Test
  void aValueNearItsLimitIsToldOnce() {
    Random random = new Random(3);
    HeldConditions held = new HeldConditions(QUIET, List.of());
    List<String> told = new ArrayList<>();
    for (int second = 0; second < 10_000; second += 5) {
      double value = 100 + random.nextInt(-15, 15);
      told.add(
          at(
              held,
              second,
              Look.above(value, 100, Condition.QUARANTINE, "plants", "in quarantine")));
    }
    assertThat(told.stream().filter(one -> !one.isEmpty())).containsExactly("+quarantine");
    assertThat(Look.above(79, 100, Condition.QUARANTINE, "plants", "").level())
        .isEqualTo(Look.Level.GOOD);
    assertThat(Look.above(500, 0, Condition.QUARANTINE, "plants", "").level())
        .isEqualTo(Look.Level.GOOD);
    assertThat(Look.below(9, 10, Condition.DISK, "disk", "").level()).isEqualTo(Look.Level.HOLDS);
    assertThat(Look.below(11, 10, Condition.DISK, "disk", "").level())
        .isEqualTo(Look.Level.BETWEEN);
    assertThat(Look.below(0, 0, Condition.DISK, "disk", "").level()).isEqualTo(Look.Level.GOOD);
  }
}
