package org.mnemex.service.publish;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchView;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.publish.Division;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.Follower.Offer;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.StoreSettings;
import org.mnemex.service.access.Keys;
import org.mnemex.service.compute.Repeated;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.FollowedIndex;
import org.mnemex.service.shard.Held;
import org.mnemex.service.shard.OtherNodes;
import org.mnemex.service.shard.ShardsHere;
import org.mnemex.sync.source.Shard;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Follows what builders publish, on a search node: fetches files, opens commits, and takes over
 * definitions and keys. Everything of a new offer is here before the first search sees any of it;
 * while the store is away, the last one goes on answering.
 */
@Component
public class Following {
  private static final Logger LOG = LoggerFactory.getLogger(Following.class);

  /** Three times as long as a builder is silent. */
  private static final Duration SILENCE = Publications.CONFIRM.multipliedBy(3);

  /** How often it looks at everything while the builder tells what is new. */
  private static final Duration SELDOM = Duration.ofSeconds(30);

  /** In the cache, the folder with what is followed of each shard. */
  private static final String SHARDS = "shards";

  private final Installation installation;
  private final Clock clock;
  private final OtherNodes nodes;
  private final Stores stores;
  private final @Nullable StoreSettings settings;
  private final Path cache;
  private @Nullable OpenStore store;
  private @Nullable Repeated following;

  /** One for each shard; none before it is known how many there are. */
  private volatile List<FollowedBuilder> builders = List.of();

  /** Whether the store itself has said how many there are. */
  private boolean isDivisionKnown;

  private final KnownEditions editions;
  private final OfferedShards offered = new OfferedShards();

  /** The shards that are here. */
  private Set<Integer> here = Set.of();

  private final FollowedDefinitions definitions;
  private final Heard heard = new Heard();
  private volatile StoreView.@Nullable BuilderLink builder;

  Following(
      Installation installation,
      Keys keys,
      JsonMapper json,
      Clock clock,
      OtherNodes nodes,
      Stores stores,
      MnemexSettings settings) {
    this.stores = stores;
    this.installation = installation;
    this.clock = clock;
    this.nodes = nodes;
    this.editions = new KnownEditions(nodes, clock);
    this.definitions =
        new FollowedDefinitions(installation, keys, json, nodes, editions, this::mendSoon);
    boolean follows = settings.role() == MnemexSettings.Role.SEARCH;
    if (follows && settings.store() == null) {
      throw new SettingsException(
          "a search node needs to know which store it follows; set --mnemex.store.kind");
    }
    this.settings = follows ? settings.store() : null;
    this.cache = settings.data().resolve("cache");
  }

  /** Answers from what is known already, if anything is, before the store is asked. */
  @PostConstruct
  void start() throws IOException {
    if (settings == null) {
      return;
    }
    store = stores.ofNode(settings);
    try {
      open(rememberedShards());
      List<Offer> remembered = new ArrayList<>();
      for (FollowedBuilder one : builders) {
        Offer offer = one.remembered();
        if (offer != null) {
          remembered.add(offer);
        }
      }
      if (remembered.size() == builders.size()) {
        take(remembered);
        offered.offer(editions.held());
      }
    } catch (IOException | RuntimeException e) {
      LOG.warn("what was followed before cannot be used: {}", e.getMessage());
    }
    following = new Repeated("following", () -> pause(settings), this::follow);
  }

  private int rememberedShards() throws IOException {
    Path shards = cache.resolve(SHARDS);
    if (!Files.exists(shards)) {
      return 1;
    }
    try (Stream<Path> all = Files.list(shards)) {
      return (int) all.count();
    }
  }

  /** Begins to follow so many builders, instead of those before. */
  private void open(int shards) throws IOException {
    StoreSettings given = Objects.requireNonNull(settings);
    Bandwidth bandwidth = Bandwidth.of(given.bandwidth().toBytes());
    builders.forEach(FollowedBuilder::close);
    List<FollowedBuilder> opened = new ArrayList<>();
    for (int i = 0; i < shards; i++) {
      Shard shard = new Shard(i, shards);
      opened.add(
          new FollowedBuilder(
              shard,
              Objects.requireNonNull(store).of(shard),
              shard.isWhole() ? cache : cache.resolve(SHARDS).resolve(String.valueOf(i)),
              given.cache().toBytes() / shards,
              bandwidth,
              clock));
    }
    editions.forget();
    builders = List.copyOf(opened);
    place(placed());
  }

  /** The shards that are to be here. */
  private Set<Integer> placed() {
    Set<Integer> all = FollowedEdition.all(builders.size());
    Set<Integer> own = nodes.own();
    return own == null ? all : all.stream().filter(own::contains).collect(Collectors.toSet());
  }

  private void place(Set<Integer> shards) {
    here = shards;
    builders.forEach(one -> one.here(shards.contains(one.shard().number())));
  }

  private Duration pause(StoreSettings given) {
    StoreView.BuilderLink link = builder;
    // One builder does not know what the others write.
    boolean isTold = link != null && link.problem() == null && builders.size() == 1;
    boolean isWell =
        isTold && !definitions.areWaiting() && Objects.requireNonNull(following).problem() == null;
    return isWell && SELDOM.compareTo(given.every()) > 0 ? SELDOM : given.every();
  }

  /**
   * Takes over what the builder has written, and waits until that is done, or has failed.
   *
   * @param objects names of objects in the store; null: any
   * @param atMost how long to wait
   */
  public void follow(@Nullable Set<String> objects, Duration atMost) throws InterruptedException {
    Repeated now = Objects.requireNonNull(following);
    long number = heard.add(objects);
    now.wake();
    heard.await(number, atMost);
  }

  /** Says from where news comes, and why it does not come now, if so. */
  public void builder(String address, @Nullable String other) {
    StoreView.BuilderLink before = builder;
    builder = new StoreView.BuilderLink(address, other);
    if (before != null && before.problem() == null && other != null) {
      Objects.requireNonNull(following).wake();
    }
  }

  private boolean follow() throws IOException {
    Heard.Taken told = heard.take();
    try {
      follow(told.objects());
      return true;
    } finally {
      offered.offer(editions.held());
      heard.done(told);
    }
  }

  private void follow(@Nullable Set<String> objects) throws IOException {
    if (!isDivisionKnown) {
      Division division = Division.of(Objects.requireNonNull(store).whole());
      int shards = division == null ? 1 : division.shards();
      if (shards != builders.size()) {
        open(shards);
      }
    }
    List<Offer> offers = new ArrayList<>();
    for (FollowedBuilder one : builders) {
      offers.add(one.look(one.shard().isWhole() ? objects : null));
    }
    isDivisionKnown = true;
    Set<Integer> placed = placed();
    boolean isMoved = !placed.equals(here);
    if (isMoved) {
      place(placed);
    }
    if (editions.all().stream().anyMatch(one -> one.damage() != null)) {
      mend(offers);
    } else if (isMoved
        || definitions.areWaiting()
        || !offers.equals(builders.stream().map(FollowedBuilder::taken).toList())) {
      for (FollowedBuilder one : builders) {
        one.fetch(offers.get(one.shard().number()));
      }
      if (isMoved) {
        definitions.forget();
      }
      try {
        take(offers);
      } catch (DamagedFileException | JacksonException e) {
        LOG.error("{}; damaged files are fetched again", e.getMessage());
        mend(offers);
      }
      for (FollowedBuilder one : builders) {
        one.remember(offers.get(one.shard().number()));
      }
    }
  }

  /** Fetches what has changed on the disk, and opens everything anew. */
  private void mend(List<Offer> offers) throws IOException {
    for (FollowedBuilder one : builders) {
      one.mend(offers.get(one.shard().number()));
    }
    editions.forget();
    definitions.take(offers, builders, here);
    noteTaken(offers);
  }

  /**
   * Takes over what the builders offer.
   *
   * @param offers one of each builder
   */
  private void take(List<Offer> offers) throws IOException {
    boolean isSame =
        !definitions.areWaiting()
            && builders.stream()
                .allMatch(
                    one -> {
                      Offer before = one.taken();
                      return before != null
                          && before.content().equals(offers.get(one.shard().number()).content());
                    });
    if (isSame) {
      for (FollowedEdition edition : editions.all()) {
        edition.take(offers, builders);
      }
    } else {
      definitions.take(offers, builders, here);
    }
    noteTaken(offers);
  }

  private void noteTaken(List<Offer> offers) {
    builders.forEach(one -> one.took(offers.get(one.shard().number())));
  }

  /**
   * The shards that are here for other nodes, as soon as there are others than those that are
   * known.
   *
   * @param known what the answer before said; null if there was none
   * @param atMost how long to wait
   */
  public ShardsHere held(@Nullable String known, Duration atMost) throws InterruptedException {
    return offered.after(known, atMost);
  }

  /**
   * Shards as another node asks for them; null if they are not here, or not any more.
   *
   * @param edition what {@link Held#edition} says
   * @param shards numbers from 0
   * @param states which commit of each shard
   */
  public @Nullable SearchView held(
      List<String> edition, List<Integer> shards, List<String> states) {
    return editions.held(edition, shards, states);
  }

  private void mendSoon() {
    Repeated now = following;
    if (now != null) {
      now.wake();
    }
  }

  /** Why nothing is followed now, or null. */
  public @Nullable String problem() {
    Repeated now = following;
    if (now == null || now.problem() != null) {
      return now == null ? null : now.problem();
    }
    // A builder confirms what it has published even if nothing changes.
    Instant latest = clock.instant().minus(SILENCE);
    for (FollowedBuilder one : builders) {
      if (one.news().isBefore(latest)) {
        return "the builder%s has written nothing to the store since %s"
            .formatted(one.shard().isWhole() ? "" : " of shard " + one.shard(), one.news());
      }
    }
    for (FollowedIndex index : installation.running().followed().values()) {
      if (index.live() instanceof FollowedEdition edition && edition.isLacking()) {
        return "no node has one of the shards of %s that are not here: searches are refused, or answered without it"
            .formatted(index.index().name());
      }
    }
    String unlike = definitions.problem();
    return unlike == null ? nodes.problem() : unlike;
  }

  /** What is followed, and where. */
  public StoreView view() {
    List<StoreView.StoredEdition> all = new ArrayList<>();
    for (FollowedIndex index : installation.running().followed().values()) {
      if (!(index.live() instanceof FollowedEdition edition)) {
        continue;
      }
      for (FollowedBuilder one : builders) {
        Offer now = one.taken();
        int number = one.shard().number();
        EditionName name =
            edition.hasHere(number) && number < edition.names().size()
                ? edition.names().get(number)
                : null;
        // While another edition is taken over, what runs may be ahead of what was noted.
        if (name != null && now != null && now.content().live().contains(name)) {
          all.add(
              StoreView.StoredEdition.of(
                  index.index().name(), one.shard(), now.edition(name), true));
        }
      }
    }
    return new StoreView(
        store == null ? null : store.place(),
        "search",
        problem(),
        null,
        store == null ? null : store.traffic(),
        builders.size() < 2 ? null : builders.size(),
        all,
        builder,
        nodes.isOn() ? nodes.links() : null);
  }

  /** Whether this process follows a store. */
  public boolean isOn() {
    return settings != null;
  }

  /** Whether there is something to answer with. */
  public boolean answers() {
    return !installation.running().followed().isEmpty();
  }

  @PreDestroy
  void stop() {
    offered.end();
    if (following != null) {
      following.close();
    }
    builders.forEach(FollowedBuilder::close);
    if (store != null) {
      store.close();
    }
  }
}
