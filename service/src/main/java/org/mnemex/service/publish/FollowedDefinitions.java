package org.mnemex.service.publish;

import java.io.IOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.Follower.Offer;
import org.mnemex.service.access.Keys;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.FollowedIndex;
import org.mnemex.service.publish.PublishedDefinitions.PublishedIndex;
import org.mnemex.service.shard.OtherNodes;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.sync.definition.IndexDefinition;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * What is searched under which definitions, as builders offer it. Where several builders share the
 * indexes, an index moves to another definition when all of them have it, and to another edition
 * when every shard of it is somewhere. Everything else that is defined, and keys, come from the
 * builder of shard 0.
 */
final class FollowedDefinitions {
  private static final Logger LOG = LoggerFactory.getLogger(FollowedDefinitions.class);

  private final Installation installation;
  private final Keys keys;
  private final JsonMapper json;
  private final OtherNodes nodes;
  private final KnownEditions editions;
  private final Runnable mendSoon;

  /** Whether other nodes do not have yet what is to be searched. */
  private volatile boolean isWaiting;

  /** What the log says is followed. */
  private String told = "";

  /** The definitions that are followed besides those of indexes. */
  private List<DefinitionRow> others = List.of();

  /** What builders have defined differently, or null. */
  private volatile @Nullable String disagreement;

  /**
   * @param editions what is searched, which is replaced
   * @param mendSoon has damaged files fetched again
   */
  FollowedDefinitions(
      Installation installation,
      Keys keys,
      JsonMapper json,
      OtherNodes nodes,
      KnownEditions editions,
      Runnable mendSoon) {
    this.installation = installation;
    this.keys = keys;
    this.json = json;
    this.nodes = nodes;
    this.editions = editions;
    this.mendSoon = mendSoon;
  }

  /** Whether other nodes do not have yet what is to be searched. */
  boolean areWaiting() {
    return isWaiting;
  }

  /**
   * What builders have defined differently, or what other nodes do not have yet; null if neither.
   */
  @Nullable String problem() {
    return disagreement;
  }

  /** Everything is opened anew, as other shards are to be here. */
  void forget() {
    editions.replace(Map.of());
    isWaiting = true;
  }

  /**
   * Takes over what the builders offer.
   *
   * @param offers one of each builder
   * @param here the shards that are here
   */
  void take(List<Offer> offers, List<FollowedBuilder> builders, Set<Integer> here)
      throws IOException {
    List<PublishedDefinitions> published =
        offers.stream()
            .map(offer -> json.readValue(offer.content().service(), PublishedDefinitions.class))
            .toList();
    Map<List<EditionName>, FollowedEdition> next = new HashMap<>();
    List<FollowedIndex> indexes = new ArrayList<>();
    List<String> differing = new ArrayList<>();
    List<String> waiting = new ArrayList<>();
    for (PublishedIndex one : published.getFirst().indexes()) {
      List<EditionName> names = PublishedDefinitions.names(one, published);
      if (names != null) {
        FollowedIndex index = index(one, names, here);
        FollowedEdition edition = (FollowedEdition) index.live();
        edition.offer(index.index(), index.version());
        edition.take(offers, builders);
        next.put(names, edition);
        if (edition.isComplete()) {
          edition.redefine();
          indexes.add(index);
          continue;
        }
        waiting.add(one.row().name());
      } else {
        differing.add(one.row().name());
      }
      FollowedIndex former = installation.running().followed().get(one.row().name());
      if (former != null
          && former.live() instanceof FollowedEdition edition
          && edition.names().size() == builders.size()) {
        if (next.putIfAbsent(edition.names(), edition) == null) {
          edition.take(offers, builders);
        }
        indexes.add(former);
      }
    }
    if (differing.isEmpty() && waiting.isEmpty() || others.isEmpty()) {
      // Else they may be about what not all builders, or nodes, have yet.
      others = published.getFirst().others();
    }
    installation.follow(others, indexes);
    keys.follow(published.getFirst().keys());
    editions.replace(next);
    isWaiting = !waiting.isEmpty();
    disagreement =
        !differing.isEmpty()
            ? "not all builders answer with the same definition of %s; what they agreed on before goes on answering"
                .formatted(String.join(", ", differing))
            : isWaiting
                ? "the other nodes do not have all shards of %s yet"
                    .formatted(String.join(", ", waiting))
                : null;
    say(next.keySet());
  }

  private void say(Set<List<EditionName>> followed) {
    String now =
        followed.stream()
            .map(
                names -> names.stream().map(EditionName::toString).collect(Collectors.joining("+")))
            .sorted()
            .collect(Collectors.joining(", "));
    if (!isWaiting || !now.equals(told)) {
      LOG.info("what is followed: {}", now);
    }
    told = now;
  }

  private FollowedIndex index(PublishedIndex one, List<EditionName> names, Set<Integer> here) {
    Definition definition = installation.read(one.row());
    IndexDefinition index = ((Definition.OfIndex) definition.content()).index();
    int version = one.row().version();
    FollowedEdition known = editions.get(names);
    return new FollowedIndex(
        definition,
        version,
        index,
        known != null && known.fits(index)
            ? known
            : new FollowedEdition(names, index, version, here, nodes, mendSoon));
  }
}
