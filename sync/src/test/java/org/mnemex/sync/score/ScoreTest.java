package org.mnemex.sync.score;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

/** Scores against numbers worked out by hand, and against what must hold for any list. */
class ScoreTest {
  private static final double EXACT = 1e-9;

  @Test
  void aListIsScoredAsByHand() {
    Map<String, Integer> grades = Map.of("a", 3, "b", 1, "c", 2, "z", 0);
    // Gains 7, 3, 1 at the places 1, 2, 3 are the best there is; here c, z, a.
    Score score = Score.of(List.of("c", "z", "a"), grades, 3);
    double ideal = 7 + 3 / log2(3) + 1 / log2(4);
    assertThat(score.ndcg()).isCloseTo((3 + 7 / log2(4)) / ideal, within(EXACT));
    assertThat(score.reciprocalRank()).isEqualTo(1);
    assertThat(score.precision()).isCloseTo(2 / 3.0, within(EXACT));
    assertThat(score.recall()).isCloseTo(2 / 3.0, within(EXACT));
    Score later = Score.of(List.of("z", "y", "b"), grades, 10);
    assertThat(later.reciprocalRank()).isCloseTo(1 / 3.0, within(EXACT));
    assertThat(later.precision()).isCloseTo(0.1, within(EXACT));
    assertThat(Score.mean(List.of(score, later)).recall()).isCloseTo(0.5, within(EXACT));
    assertThatThrownBy(() -> Score.of(List.of("a"), Map.of("a", 0), 10))
        .hasMessageContaining("no record has a grade above 0");
  }

  private static double log2(double value) {
    return Math.log(value) / Math.log(2);
  }

  @Property(tries = 200)
  void theBestOrderScoresOneAndNoOtherMore(@ForAll long seed) {
    Random random = new Random(seed);
    Map<String, Integer> grades = new LinkedHashMap<>();
    for (int i = 0; i < 1 + random.nextInt(8); i++) {
      grades.put("k" + i, i == 0 ? 1 + random.nextInt(4) : random.nextInt(5));
    }
    List<String> keys = new ArrayList<>(grades.keySet());
    keys.sort(Comparator.comparing(grades::get, Comparator.reverseOrder()));
    int top = 1 + random.nextInt(10);
    assertThat(Score.of(keys, grades, top).ndcg()).isCloseTo(1, within(EXACT));
    Collections.shuffle(keys, random);
    Score other = Score.of(keys, grades, top);
    assertThat(other.ndcg()).isBetween(0.0, 1 + EXACT);
    assertThat(other.recall()).isBetween(0.0, 1.0);
    // A better neighbour in front can only help.
    for (int i = 0; i + 1 < keys.size(); i++) {
      if (grades.get(keys.get(i)) < grades.get(keys.get(i + 1))) {
        Collections.swap(keys, i, i + 1);
        assertThat(Score.of(keys, grades, top).ndcg()).isGreaterThanOrEqualTo(other.ndcg() - EXACT);
        return;
      }
    }
  }
}
