package org.mnemex.service.publish;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.publish.EditionName;
import org.mnemex.service.shard.Held;
import org.mnemex.service.shard.OtherNodes;

/**
 * The editions of a search node: those that are searched, or will be as soon as other nodes have
 * them, and former ones that other nodes may still ask for.
 */
final class KnownEditions {
  /** How long other nodes may ask for an edition that is no longer searched here. */
  private static final Duration RETIRED = Duration.ofSeconds(15);

  private final OtherNodes nodes;
  private final Clock clock;
  private volatile Map<List<EditionName>, FollowedEdition> now = Map.of();
  private final Queue<Former> formers = new ConcurrentLinkedQueue<>();

  /**
   * An edition that is no longer searched here.
   *
   * @param until when other nodes will have gone on as well
   */
  private record Former(FollowedEdition edition, Instant until) {}

  KnownEditions(OtherNodes nodes, Clock clock) {
    this.nodes = nodes;
    this.clock = clock;
  }

  /** The edition of these names at all builders; null if there is none. */
  @Nullable FollowedEdition get(List<EditionName> names) {
    return now.get(names);
  }

  Collection<FollowedEdition> all() {
    return now.values();
  }

  /** Takes others in their place. */
  void replace(Map<List<EditionName>, FollowedEdition> next) {
    Map<List<EditionName>, FollowedEdition> before = now;
    now = Map.copyOf(next);
    if (nodes.isOn()) {
      Instant until = clock.instant().plus(RETIRED);
      before.values().stream()
          .filter(one -> !next.containsValue(one))
          .forEach(one -> formers.add(new Former(one, until)));
    }
  }

  /** Forgets those that are not to be searched any more by anybody. */
  void forget() {
    now = Map.of();
  }

  private Stream<FollowedEdition> known() {
    formers.removeIf(former -> former.until.isBefore(clock.instant()));
    return Stream.concat(now.values().stream(), formers.stream().map(Former::edition));
  }

  /** The shards that are here for other nodes. */
  List<Held> held() {
    return nodes.isOn()
        ? known().flatMap(edition -> edition.held().stream()).distinct().toList()
        : List.of();
  }

  /** Shards as another node asks for them; null if they are not here, or not any more. */
  @Nullable SearchView held(List<String> edition, List<Integer> shards, List<String> states) {
    return known()
        .map(one -> one.held(edition, shards, states))
        .filter(Objects::nonNull)
        .findFirst()
        .orElse(null);
  }
}
