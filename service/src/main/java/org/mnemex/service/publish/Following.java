package org.mnemex.service.publish;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.Follower;
import org.mnemex.publish.Follower.Offer;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.publish.file.FilePool;
import org.mnemex.publish.file.PublishedFile;
import org.mnemex.publish.store.CountedStore;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.StoreSettings;
import org.mnemex.service.access.Keys;
import org.mnemex.service.definition.Definition;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.FollowedIndex;
import org.mnemex.service.publish.PublishedDefinitions.PublishedIndex;
import org.mnemex.sync.definition.IndexDefinition;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Follows what a builder publishes, on a search node: fetches files, opens commits, and takes over
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

  private final Installation installation;
  private final Keys keys;
  private final JsonMapper json;
  private final Clock clock;
  private final @Nullable StoreSettings settings;
  private final Path cache;
  private @Nullable CountedStore store;
  private @Nullable FilePool pool;
  private @Nullable Follower follower;
  private @Nullable Repeated following;
  private volatile @Nullable Offer taken;

  /** When something new was seen, by the clock of this machine. */
  private volatile Instant news;

  private Map<EditionName, FollowedEdition> editions = Map.of();
  private final Heard heard = new Heard();
  private volatile StoreView.@Nullable BuilderLink builder;

  Following(
      Installation installation, Keys keys, JsonMapper json, Clock clock, MnemexSettings settings) {
    this.installation = installation;
    this.keys = keys;
    this.json = json;
    this.clock = clock;
    this.news = clock.instant();
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
    CountedStore opened = Stores.ofNode(settings);
    store = opened;
    pool =
        new FilePool(
            cache.resolve("files"),
            opened,
            settings.cache().toBytes(),
            Bandwidth.of(settings.bandwidth().toBytes()),
            clock);
    follower = new Follower(opened, cache);
    try {
      Offer remembered = follower.remembered();
      if (remembered != null && pool.hasAll(files(remembered))) {
        take(remembered);
      }
    } catch (IOException | RuntimeException e) {
      LOG.warn("what was followed before cannot be used: {}", e.getMessage());
    }
    following = new Repeated("following", () -> pause(settings), this::follow);
  }

  private Duration pause(StoreSettings given) {
    StoreView.BuilderLink link = builder;
    boolean isTold = link != null && link.problem() == null;
    boolean isWell = isTold && Objects.requireNonNull(following).problem() == null;
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
      heard.done(told);
    }
  }

  private void follow(@Nullable Set<String> objects) throws IOException {
    Offer offer = Objects.requireNonNull(follower).look(objects);
    if (offer == null) {
      throw new IOException(
          "nothing is published in the store %s yet"
              .formatted(Objects.requireNonNull(store).place()));
    }
    if (!offer.equals(taken)) {
      news = clock.instant();
    }
    if (editions.values().stream().anyMatch(one -> one.damage() != null)) {
      mend(offer);
    } else if (!offer.equals(taken)) {
      Offer before = taken;
      Objects.requireNonNull(pool).fetch(files(offer), before == null ? List.of() : files(before));
      try {
        take(offer);
      } catch (DamagedFileException | JacksonException e) {
        LOG.error("{}; damaged files are fetched again", e.getMessage());
        mend(offer);
      }
      follower.remember(offer);
    }
  }

  /** Fetches what has changed on the disk, and opens everything anew. */
  private void mend(Offer offer) throws IOException {
    FilePool files = Objects.requireNonNull(pool);
    files.removeDamaged(files(offer));
    files.fetch(files(offer), List.of());
    taken = null;
    editions = Map.of();
    take(offer);
  }

  private static List<PublishedFile> files(Offer offer) {
    return offer.editions().stream().map(EditionManifest::files).flatMap(List::stream).toList();
  }

  private void take(Offer offer) throws IOException {
    Offer before = taken;
    if (before != null && before.content().equals(offer.content())) {
      for (FollowedEdition edition : editions.values()) {
        edition.take(offer.edition(edition.name()), Objects.requireNonNull(pool));
      }
    } else {
      takeDefinitions(offer);
    }
    taken = offer;
  }

  private void takeDefinitions(Offer offer) throws IOException {
    PublishedDefinitions published =
        json.readValue(offer.content().service(), PublishedDefinitions.class);
    Map<EditionName, FollowedEdition> next = new HashMap<>();
    List<FollowedIndex> indexes = new ArrayList<>();
    for (PublishedIndex one : published.indexes()) {
      EditionName name = new EditionName(one.row().keptAs(), one.edition());
      Definition definition = installation.read(one.row());
      IndexDefinition index = ((Definition.OfIndex) definition.content()).index();
      FollowedEdition edition = editions.get(name);
      if (edition == null || !edition.fits(index)) {
        edition = new FollowedEdition(name, index, one.row().version(), this::mendSoon);
      }
      edition.take(offer.edition(name), Objects.requireNonNull(pool));
      edition.redefine(index, one.row().version());
      next.put(name, edition);
      indexes.add(new FollowedIndex(definition, one.row().version(), index, edition));
    }
    installation.follow(published.others(), indexes);
    keys.follow(published.keys());
    editions = next;
    LOG.info(
        "what is followed: {}",
        next.keySet().stream()
            .map(EditionName::toString)
            .sorted()
            .collect(Collectors.joining(", ")));
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
    Instant last = news;
    return last.plus(SILENCE).isBefore(clock.instant())
        ? "the builder has written nothing to the store since " + last
        : null;
  }

  /** What is followed, and where. */
  public StoreView view() {
    List<StoreView.StoredEdition> all = new ArrayList<>();
    Offer now = taken;
    for (FollowedIndex index : installation.running().followed().values()) {
      EditionName name = new EditionName(index.index().keptAs(), index.live().number());
      // While another edition is taken over, what runs may be ahead of what was noted.
      if (now != null && now.content().live().contains(name)) {
        all.add(StoreView.StoredEdition.of(index.index().name(), now.edition(name), true));
      }
    }
    return new StoreView(
        store == null ? null : store.place(),
        "search",
        problem(),
        null,
        store == null ? null : store.traffic(),
        all,
        builder);
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
    if (following != null) {
      following.close();
    }
    if (pool != null) {
      pool.close();
    }
    if (store != null) {
      store.close();
    }
  }
}
