package org.mnemex.service.condition;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Which conditions hold. One begins when every look has found it for as long as its patience says,
 * and ends when no look has found it for some time, so that what comes and goes is told once.
 */
final class HeldConditions {
  private final Duration quiet;
  private final Map<Key, State> states = new HashMap<>();

  private record Key(Condition condition, String about) {}

  /**
   * @param since when it was first seen without interruption; null if it is not seen
   * @param good since when it is not seen, while it holds; else null
   * @param held what holds, or null
   */
  private record State(@Nullable Instant since, @Nullable Instant good, @Nullable Held held) {}

  /**
   * A condition that holds.
   *
   * @param since when it began
   * @param text what is the matter and what to do
   */
  record Held(Condition condition, String about, Instant since, String text) {}

  /**
   * What changed.
   *
   * @param begun whether it began; otherwise it ended
   */
  record Change(Held held, boolean begun) {}

  /**
   * @param quiet how long a condition must not have been seen to end
   * @param known those that held when the service stopped
   */
  HeldConditions(Duration quiet, List<Held> known) {
    this.quiet = quiet;
    known.forEach(
        held -> states.put(new Key(held.condition, held.about), new State(held.since, null, held)));
  }

  /** Takes the looks of one moment; what began and ended. */
  List<Change> take(List<Look> looks, Instant now) {
    List<Change> changes = new ArrayList<>();
    for (Look look : withGone(looks)) {
      Key key = new Key(look.condition(), look.about());
      State before = states.getOrDefault(key, new State(null, null, null));
      State after = before.held == null ? waiting(before, look, now) : holding(before, look, now);
      if (after.held != null && before.held == null) {
        changes.add(new Change(after.held, true));
      } else if (after.held == null && before.held != null) {
        changes.add(new Change(before.held, false));
      }
      states.put(key, after);
    }
    return changes;
  }

  /** What holds and is not looked at any more, such as of a removed index, is good. */
  private List<Look> withGone(List<Look> looks) {
    Set<Key> seen =
        looks.stream()
            .map(look -> new Key(look.condition(), look.about()))
            .collect(Collectors.toSet());
    states
        .entrySet()
        .removeIf(state -> state.getValue().held == null && !seen.contains(state.getKey()));
    List<Look> all = new ArrayList<>(looks);
    for (Held held : all()) {
      if (!seen.contains(new Key(held.condition, held.about))) {
        all.add(Look.whether(false, held.condition, held.about, Duration.ZERO, held.text));
      }
    }
    return all;
  }

  private static State waiting(State before, Look look, Instant now) {
    if (look.level() != Look.Level.HOLDS) {
      return new State(null, null, null);
    }
    Instant since = before.since == null ? now : before.since;
    if (Duration.between(since, now).compareTo(look.patience()) < 0) {
      return new State(since, null, null);
    }
    return new State(since, null, new Held(look.condition(), look.about(), since, look.text()));
  }

  private State holding(State before, Look look, Instant now) {
    Held held = Objects.requireNonNull(before.held);
    if (look.level() == Look.Level.GOOD) {
      Instant good = before.good == null ? now : before.good;
      return Duration.between(good, now).compareTo(quiet) < 0
          ? new State(before.since, good, held)
          : new State(null, null, null);
    }
    // The sentence tells how it is now.
    return look.level() == Look.Level.HOLDS
        ? new State(
            before.since, null, new Held(held.condition, held.about, held.since, look.text()))
        : new State(before.since, null, held);
  }

  /** What holds, the oldest first. */
  List<Held> all() {
    return states.values().stream()
        .map(State::held)
        .filter(Objects::nonNull)
        .sorted(Comparator.comparing(Held::since).thenComparing(Held::about))
        .toList();
  }
}
