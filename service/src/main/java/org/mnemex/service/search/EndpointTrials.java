package org.mnemex.service.search;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.endpoint.TrialName;
import org.mnemex.service.install.DefinitionFile;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/**
 * Definitions that are tried: for a while, an endpoint can be called under a name of its own as it
 * would be under them. They are only kept in memory.
 */
@Component
class EndpointTrials {
  private static final Duration KEPT = Duration.ofHours(1);
  private static final int MOST = 32;

  private final Clock clock;

  /** By name, the one that was used last at the end. */
  private final Map<String, Trial> trials = new LinkedHashMap<>(MOST, 0.75f, true);

  EndpointTrials(Clock clock) {
    this.clock = clock;
  }

  /**
   * A trial.
   *
   * @param name what to call instead of the endpoint
   * @param endpoint name of the endpoint
   * @param files definitions that are not applied
   * @param until when it ends
   */
  record Trial(String name, String endpoint, List<DefinitionFile> files, Instant until) {}

  /** Begins a trial, and ends the one that was not used for the longest time if there are many. */
  synchronized Trial begin(String endpoint, List<DefinitionFile> files) {
    Trial trial =
        new Trial(TrialName.of(endpoint), endpoint, List.copyOf(files), clock.instant().plus(KEPT));
    trials.put(trial.name, trial);
    if (trials.size() > MOST) {
      trials.remove(trials.keySet().iterator().next());
    }
    return trial;
  }

  /**
   * The trial of a name.
   *
   * @throws ProblemException 404 if it has ended, or there never was one
   */
  synchronized Trial find(String name) {
    @Nullable Trial trial = trials.get(name);
    if (trial == null || clock.instant().isAfter(trial.until)) {
      trials.remove(name);
      throw new ProblemException(
          ProblemType.UNKNOWN_ENDPOINT,
          "the trial '%s' has ended; begin another one".formatted(name));
    }
    return trial;
  }
}
