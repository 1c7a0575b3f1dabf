package org.mnemex.service.publish;

import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.QueryRefusedException;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.shard.Fact;
import org.mnemex.engine.shard.Shard;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.Follower.Offer;
import org.mnemex.service.shard.Held;
import org.mnemex.service.shard.OtherNodes;
import org.mnemex.service.shard.Remote;
import org.mnemex.service.shard.ShardAwayException;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.edition.EditionDamagedException;
import org.mnemex.sync.edition.SearchedEdition;
import org.mnemex.sync.source.Position;

/**
 * The copy of an edition that is built elsewhere: one part from each builder, searched as one.
 * Parts that are not here are asked of other nodes. Each builder counts its editions for itself;
 * the number is that of the first.
 */
final class FollowedEdition implements SearchedEdition {
  private static final String POSITION = "position";

  /** How often a search begins, if a node does not answer any more or has gone on. */
  private static final int ATTEMPTS = 4;

  private static final long PAUSE_MILLIS = 100;

  /** More facts than this are forgotten; they are asked for again. */
  private static final int MAX_FACTS = 10_000;

  private final List<EditionName> names;
  private final List<FollowedPart> parts = new ArrayList<>();

  /** Shards that are not here. */
  private final Set<Integer> missing = new TreeSet<>();

  private final OtherNodes others;
  private final Runnable onDamage;
  private volatile As as;

  /** What other nodes may search it as, which may come before it is searched so here. */
  private volatile As offered;

  private volatile @Nullable String damage;
  private volatile Known known = new Known(Set.of());

  /**
   * What it is searched as.
   *
   * @param id what nodes call it among themselves
   */
  private record As(IndexDefinition definition, int version, List<String> id) {}

  /** What is known about shards as they were at one moment. */
  private record Known(Set<String> states, Map<String, Fact> facts) {
    Known(Set<String> states) {
      this(states, new ConcurrentHashMap<>());
    }
  }

  /**
   * @param names of the edition at each builder
   * @param here the numbers of the shards that are here
   * @param onDamage told when a file turns out to be damaged
   */
  FollowedEdition(
      List<EditionName> names,
      IndexDefinition definition,
      int version,
      Set<Integer> here,
      OtherNodes others,
      Runnable onDamage) {
    this.names = List.copyOf(names);
    this.others = others;
    this.onDamage = onDamage;
    this.as = as(definition, version);
    this.offered = as;
    for (int shard = 0; shard < names.size(); shard++) {
      if (here.contains(shard)) {
        parts.add(new FollowedPart(names.get(shard), shard, definition.schema()));
      } else {
        missing.add(shard);
      }
    }
  }

  /** What it is called at each builder. */
  List<EditionName> names() {
    return names;
  }

  /** Whether this node has a shard of it. */
  boolean hasHere(int shard) {
    return !missing.contains(shard);
  }

  /** Whether its files can be read as a definition wants them. */
  boolean fits(IndexDefinition definition) {
    return definition.schema().fingerprint().equals(as.definition.schema().fingerprint());
  }

  /**
   * Offers other nodes to be searched by another version of its definition, which {@link #fits}.
   */
  void offer(IndexDefinition definition, int version) {
    offered = as(definition, version);
    keep();
  }

  /**
   * Whether it can be searched by the version that is offered: all that is not here is elsewhere.
   */
  boolean isComplete() {
    return others.have(offered.id, missing);
  }

  /** Whether a shard of it is nowhere, so that it cannot be searched now. */
  boolean isLacking() {
    return !others.have(as.id, missing);
  }

  /** Takes the version of its definition that is offered. */
  void redefine() {
    As next = offered;
    if (next.version != as.version || !next.definition.name().equals(as.definition.name())) {
      parts.forEach(part -> part.redefine(next.definition.schema()));
      as = next;
    }
  }

  private As as(IndexDefinition definition, int version) {
    Stream<String> id =
        Stream.concat(names.stream().map(EditionName::toString), Stream.of("version " + version));
    return new As(definition, version, id.toList());
  }

  private void keep() {
    if (others.isOn()) {
      for (FollowedPart part : parts) {
        part.keep(as.id, as.definition.schema());
        part.keep(offered.id, offered.definition.schema());
      }
    }
  }

  /**
   * Moves the parts that are here on as far as they are offered; of an earlier edition, one may be
   * offered no more.
   *
   * @param offers one of each builder, with all files fetched
   * @throws DamagedFileException if a file is not what it should be
   */
  void take(List<Offer> offers, List<FollowedBuilder> builders) throws IOException {
    for (FollowedPart part : parts) {
      Offer offer = offers.get(part.shard());
      EditionName name = names.get(part.shard());
      if (offer.content().live().contains(name)) {
        part.take(offer.edition(name), builders.get(part.shard()).pool());
      }
    }
    keep();
  }

  /** What other nodes may ask for. */
  List<Held> held() {
    return Stream.of(as, offered)
        .distinct()
        .flatMap(one -> parts.stream().map(part -> part.held(one.definition.name(), one.id)))
        .filter(Objects::nonNull)
        .toList();
  }

  /**
   * Shards as another node asks for them; null if they are not here, or not any more.
   *
   * @param edition what {@link Held#edition} says
   * @param states which commit of each shard
   */
  @Nullable SearchView held(List<String> edition, List<Integer> shards, List<String> states) {
    List<SearchView> views = new ArrayList<>();
    for (FollowedPart part : parts) {
      int at = shards.indexOf(part.shard());
      SearchView view = at < 0 ? null : part.kept(edition, states.get(at));
      if (view != null) {
        views.add(view);
      }
    }
    return views.isEmpty() || views.size() < shards.size()
        ? null
        : SearchView.of(views, Checkpoint.NONE);
  }

  @Override
  public int number() {
    return names.getFirst().number();
  }

  @Override
  public int version() {
    return as.version;
  }

  @Override
  public IndexDefinition definition() {
    return as.definition;
  }

  @Override
  public <T extends @Nullable Object> T search(
      @Nullable Schema other, Function<SearchView, T> work) {
    return search(other, false, work);
  }

  @Override
  public <T extends @Nullable Object> T searchReachable(
      @Nullable Schema other, Function<SearchView, T> work) {
    return search(other, true, work);
  }

  /**
   * @param isPartEnough whether shards that are nowhere are left out
   */
  private <T extends @Nullable Object> T search(
      @Nullable Schema other, boolean isPartEnough, Function<SearchView, T> work) {
    for (int attempt = 1; ; attempt++) {
      try {
        return work.apply(view(other, isPartEnough));
      } catch (ShardAwayException e) {
        if (attempt == ATTEMPTS || isLacking() && !isPartEnough) {
          throw e;
        }
        pause();
      } catch (DamagedFileException | InternalError e) {
        // InternalError: the file of a mapped region is gone.
        damage = String.valueOf(e.getMessage());
        onDamage.run();
        throw new EditionDamagedException(
            as.definition.name(), number(), "a file cannot be read; it is fetched again", e);
      }
    }
  }

  private static void pause() {
    try {
      Thread.sleep(PAUSE_MILLIS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new ShardAwayException("this service is stopping", e);
    }
  }

  private SearchView view(@Nullable Schema other, boolean isPartEnough) {
    if (missing.isEmpty()) {
      return together(other);
    }
    if (other != null) {
      throw new QueryRefusedException(
          "a node that has not all shards of the index tries no other analysers");
    }
    As now = as;
    OtherNodes.Whereabouts elsewhere = others.find(now.id, missing);
    List<Remote> remote = elsewhere.holders();
    boolean isNothingThere = parts.isEmpty() && remote.isEmpty();
    if (!elsewhere.away().isEmpty() && (isNothingThere || !isPartEnough)) {
      throw new ShardAwayException(others.away(elsewhere.away().iterator().next()));
    }
    // Before the views, which may include more.
    Position position = position();
    List<Shard> all = new ArrayList<>(remote);
    Set<String> states = new HashSet<>(now.id);
    remote.forEach(one -> one.held().forEach(held -> states.add(held.shard() + held.state())));
    List<SearchView> views = new ArrayList<>();
    for (FollowedPart part : parts) {
      // View and state belong together: facts about one are of no use for another.
      FollowedPart.Kept last = part.last(now.id);
      states.add(part.shard() + last.state());
      views.add(last.view());
    }
    if (!views.isEmpty()) {
      all.add(SearchView.of(views, Checkpoint.NONE).shard());
    }
    return SearchView.of(
        now.definition.schema(),
        others.together(all, elsewhere.away()),
        facts(states),
        checkpoint(position));
  }

  /** Facts about exactly these commits. */
  private Map<String, Fact> facts(Set<String> states) {
    Known now = known;
    if (!now.states.equals(states) || now.facts.size() > MAX_FACTS) {
      now = new Known(states);
      known = now;
    }
    return now.facts;
  }

  /** What is here. */
  private SearchView together(@Nullable Schema other) {
    if (parts.size() == 1) {
      return parts.getFirst().view(other);
    }
    Position position = position();
    return SearchView.of(
        parts.stream().map(part -> part.view(other)).toList(), checkpoint(position));
  }

  private static Checkpoint checkpoint(@Nullable Position position) {
    return position == null
        ? Checkpoint.NONE
        : new Checkpoint(Map.of(POSITION, position.toString()));
  }

  /** What other nodes have of what is not here. */
  private List<Held> elsewhere() {
    return missing.isEmpty() ? List.of() : others.held(as.id, missing);
  }

  @Override
  public String state() {
    return Stream.concat(
            parts.stream().map(part -> part.commit().state()),
            elsewhere().stream().map(Held::state).sorted())
        .collect(Collectors.joining(" "));
  }

  @Override
  public boolean isSetAside(String key) {
    return parts.stream().anyMatch(part -> part.commit().setAside().contains(key))
        || elsewhere().stream().anyMatch(held -> held.setAside().contains(key));
  }

  /** The earliest of all parts; of those elsewhere, wherever they are. */
  @Override
  public @Nullable Instant trueAt() {
    List<@Nullable Instant> all = new ArrayList<>();
    parts.forEach(part -> all.add(part.commit().trueAt()));
    elsewhere().forEach(held -> all.add(held.trueAt()));
    return all.contains(null) ? null : all.stream().min(Comparator.naturalOrder()).orElse(null);
  }

  /** The least of all parts; null if they cannot be compared. */
  @Override
  public @Nullable Position position() {
    List<@Nullable Position> all = new ArrayList<>();
    parts.forEach(part -> all.add(part.commit().position()));
    elsewhere()
        .forEach(held -> all.add(held.position() == null ? null : Position.parse(held.position())));
    Position least = all.isEmpty() ? null : all.getFirst();
    for (Position position : all) {
      if (least == null || position == null || !position.history().equals(least.history())) {
        return null;
      }
      least = least.reaches(position) ? position : least;
    }
    return least;
  }

  @Override
  public @Nullable String damage() {
    return damage;
  }

  /** The numbers of all shards of an index with so many builders. */
  static Set<Integer> all(int shards) {
    return IntStream.range(0, shards).boxed().collect(Collectors.toSet());
  }
}
