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
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.grammar.DefinitionKind;
import org.mnemex.publish.Catalogue;
import org.mnemex.publish.Division;
import org.mnemex.publish.EditionManifest;
import org.mnemex.publish.EditionName;
import org.mnemex.publish.NotSignedException;
import org.mnemex.publish.Publisher;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.publish.store.ObjectStore;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.StoreSettings;
import org.mnemex.service.compute.Repeated;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.InstallationParts;
import org.mnemex.service.install.Running;
import org.mnemex.service.install.RunningDefinition.RunningIndex;
import org.mnemex.service.publish.PublishedDefinitions.PublishedIndex;
import org.mnemex.service.store.AccessKeyMapper;
import org.mnemex.service.store.AccessKeyMapper.AccessKeyRow;
import org.mnemex.service.store.DefinitionMapper;
import org.mnemex.service.store.DefinitionRow;
import org.mnemex.service.store.QuarantineMapper;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.feed.FeedStatus;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.Shard;
import org.springframework.stereotype.Component;
import org.springframework.util.FileSystemUtils;
import tools.jackson.databind.json.JsonMapper;

/**
 * Publishes what is built here, if there is a store: the live edition of each index, the next one
 * as soon as it has caught up, definitions and keys.
 */
@Component
public class Publications {
  /** An answer says how old it is at most, so what stays the same is confirmed. */
  static final Duration CONFIRM = Duration.ofSeconds(5);

  /**
   * How soon a position is confirmed that has gone on while nothing changed here: well before
   * somebody who waits for it at a search node is refused.
   */
  private static final Duration CONFIRM_POSITION = Duration.ofSeconds(2);

  private static final Duration SWEEP = Duration.ofMinutes(5);

  /** How often it is looked whether an edition has changed. */
  private static final Duration GLANCE = Duration.ofMillis(50);

  private static final Set<DefinitionKind> NOT_FOLLOWED =
      Set.of(DefinitionKind.SOURCE, DefinitionKind.INDEX, DefinitionKind.SCORECARD);

  private final Installation installation;
  private final DefinitionMapper definitions;
  private final AccessKeyMapper keys;
  private final QuarantineMapper quarantine;
  private final News news;
  private final JsonMapper json;
  private final Clock clock;
  private final Stores stores;
  private final @Nullable StoreSettings settings;
  private final Shard shard;
  private final boolean takesDefinitions;
  private final Path linked;
  private final Map<EditionName, Seen> published = new HashMap<>();

  /** What ran when definitions were read; they are read again when something else runs. */
  private @Nullable Running read;

  private final Map<String, DefinitionRow> rows = new HashMap<>();
  private List<DefinitionRow> others = List.of();
  private List<DefinitionRow> shared = List.of();
  private @Nullable OpenStore store;
  private volatile @Nullable Publisher publisher;
  private @Nullable Repeated publishing;
  private @Nullable SharedDefinitions taken;
  private Instant swept = Instant.MIN;
  private Instant looked = Instant.MIN;

  /** What was published of an edition, and when. */
  private record Seen(String state, @Nullable Position position, Instant at) {}

  Publications(
      Installation installation,
      DefinitionMapper definitions,
      AccessKeyMapper keys,
      QuarantineMapper quarantine,
      News news,
      JsonMapper json,
      Clock clock,
      Stores stores,
      MnemexSettings settings) {
    this.installation = installation;
    this.stores = stores;
    this.definitions = definitions;
    this.keys = keys;
    this.quarantine = quarantine;
    this.news = news;
    this.json = json;
    this.clock = clock;
    this.settings = settings.role() == MnemexSettings.Role.ALL ? settings.store() : null;
    this.shard = settings.ownShard();
    this.takesDefinitions = settings.takesDefinitions();
    if (!shard.isWhole() && settings.store() == null) {
      throw new SettingsException(
          "a builder of one shard needs a store, where search nodes find all shards; set --mnemex.store.kind");
    }
    if (shard.of() > Division.MAX_SHARDS) {
      throw new SettingsException("mnemex.shard.of is at most " + Division.MAX_SHARDS);
    }
    this.linked = settings.data().resolve("publishing");
  }

  @PostConstruct
  void start() throws IOException {
    FileSystemUtils.deleteRecursively(linked);
    if (settings == null) {
      return;
    }
    store = stores.ofBuilder(settings);
    publishing = new Repeated("publishing", () -> GLANCE, this::publish);
    if (takesDefinitions) {
      ObjectStore first = store.of(new Shard(0, shard.of()));
      taken = new SharedDefinitions(installation, definitions, json, first);
    }
  }

  private boolean publish() throws IOException {
    StoreSettings given = Objects.requireNonNull(settings);
    if (!isDue(given.every())) {
      return false;
    }
    looked = clock.instant();
    Publisher to = publisher;
    if (to == null) {
      to = begin(given);
      publisher = to;
    }
    Offered offered = new Offered(to.offered());
    Set<EditionName> existing = new HashSet<>();
    Running running = installation.running();
    if (running != read) {
      rows.clear();
      others = others();
      shared = shared();
      read = running;
    }
    for (RunningIndex index : running.indexes().values()) {
      for (Edition edition : index.editions().all()) {
        existing.add(name(index, edition));
      }
      Edition next = index.editions().next();
      if (next != null && next.feed().phase() == FeedStatus.Phase.LIVE) {
        // So it is there when it goes live.
        publish(to, index, next);
      }
      Edition live = index.editions().live();
      DefinitionRow row = live == null ? null : row(index.index().name(), live.version());
      if (live != null && row != null && live.damage() == null && publish(to, index, live)) {
        offered.add(name(index, live), row);
      } else {
        // What is damaged or not there yet may still be whole where it is followed.
        offered.keep(index.index().keptAs());
      }
    }
    installation.failures().values().forEach(failure -> offered.keep(failure.row().keptAs()));
    if (to.offer(
        new Catalogue.Content(
            offered.names,
            json.writeValueAsString(
                new PublishedDefinitions(offered.indexes, others, keys(), shared))))) {
      news.wrote(Catalogue.OBJECT);
    }
    if (swept.plus(SWEEP).isBefore(clock.instant())) {
      to.sweep(existing);
      published.keySet().retainAll(existing);
      news.keep(
          Stream.concat(Stream.of(Catalogue.OBJECT), existing.stream().map(EditionName::object))
              .collect(Collectors.toSet()));
      swept = clock.instant();
    }
    return true;
  }

  private Publisher begin(StoreSettings given) throws IOException {
    try {
      OpenStore open = Objects.requireNonNull(store);
      Division.agree(open.whole(), shard.of());
      return new Publisher(
          open.of(shard),
          installation.id(),
          Bandwidth.of(given.bandwidth().toBytes()),
          given.grace(),
          clock);
    } catch (NotSignedException e) {
      throw new IOException(
          e.getMessage() + ". A builder with a key needs a place where nothing is published yet",
          e);
    }
  }

  /**
   * Whether to look at everything: every so often, and at once when an edition has changed of which
   * nothing was published for as long.
   */
  private boolean isDue(Duration every) {
    Instant latest = clock.instant().minus(every);
    if (!looked.isAfter(latest)) {
      return true;
    }
    return problem() == null
        && installation.running().indexes().values().stream()
            .anyMatch(
                index ->
                    index.editions().all().stream()
                        .anyMatch(edition -> isChanged(name(index, edition), edition, latest)));
  }

  private boolean isChanged(EditionName name, Edition edition, Instant latest) {
    Seen seen = published.get(name);
    return seen != null && !seen.at.isAfter(latest) && !seen.state.equals(edition.state());
  }

  /** What will be offered. */
  private final class Offered {
    private final Catalogue.Content before;
    private final List<EditionName> names = new ArrayList<>();
    private final List<PublishedIndex> indexes = new ArrayList<>();

    Offered(Catalogue.Content before) {
      this.before = before;
    }

    void add(EditionName name, DefinitionRow row) {
      names.add(name);
      indexes.add(new PublishedIndex(row, name.number()));
    }

    /** Goes on offering what was offered of an index before, if anything was. */
    void keep(String keptAs) {
      if (before.live().stream().anyMatch(name -> name.index().equals(keptAs))) {
        json.readValue(before.service(), PublishedDefinitions.class).indexes().stream()
            .filter(one -> one.row().keptAs().equals(keptAs))
            .forEach(one -> add(new EditionName(keptAs, one.edition()), one.row()));
      }
    }
  }

  private static EditionName name(RunningIndex index, Edition edition) {
    return new EditionName(index.index().keptAs(), edition.number());
  }

  /** Publishes what is new of an edition; false if the edition has gone meanwhile. */
  private boolean publish(Publisher to, RunningIndex index, Edition edition) throws IOException {
    try {
      publish(to, name(index, edition), edition);
      return true;
    } catch (IOException | RuntimeException e) {
      if (index.editions().all().contains(edition)) {
        throw e;
      }
      return false;
    }
  }

  private void publish(Publisher to, EditionName name, Edition edition) throws IOException {
    // Before the commit, which may include more.
    Instant trueAt = edition.trueAt();
    Position position = edition.position();
    EditionManifest.State state =
        new EditionManifest.State(
            name,
            trueAt == null ? null : trueAt.toString(),
            position == null ? null : position.toString());
    String now = edition.state();
    Seen seen = published.get(name);
    if (seen == null || !seen.state.equals(now)) {
      edition.folder().commit();
      Path folder = linked.resolve(name.index() + "-" + name.number());
      FileSystemUtils.deleteRecursively(folder);
      edition.folder().link(folder);
      to.publish(state, files(folder), json.writeValueAsBytes(setAside(name)));
      news.wrote(name.object());
      FileSystemUtils.deleteRecursively(folder);
      published.put(name, new Seen(now, position, clock.instant()));
    } else if (!seen.at
        .plus(Objects.equals(position, seen.position) ? CONFIRM : CONFIRM_POSITION)
        .isAfter(clock.instant())) {
      to.confirm(state);
      news.wrote(name.object());
      published.put(name, new Seen(now, position, clock.instant()));
    }
  }

  private List<String> setAside(EditionName name) {
    return quarantine.keys(name.index(), name.number()).stream().sorted().toList();
  }

  private static Map<String, Path> files(Path folder) throws IOException {
    try (Stream<Path> all = Files.list(folder)) {
      Map<String, Path> files = new TreeMap<>();
      all.forEach(file -> files.put(String.valueOf(file.getFileName()), file));
      return files;
    }
  }

  /** When a key was last used is nothing that others need to know, and changes all the time. */
  private List<AccessKeyRow> keys() {
    return keys.all().stream()
        .map(
            row ->
                new AccessKeyRow(
                    row.id(),
                    row.name(),
                    row.role(),
                    row.hash(),
                    row.scope(),
                    row.created(),
                    row.expires(),
                    null,
                    row.revoked()))
        .toList();
  }

  /** A version of the definition of an index; null if it is not recorded. */
  private @Nullable DefinitionRow row(String index, int version) {
    return rows.computeIfAbsent(
        index + " " + version, _ -> definitions.version(DefinitionKind.INDEX, index, version));
  }

  private List<DefinitionRow> others() {
    List<DefinitionRow> all = new ArrayList<>();
    for (DefinitionRow row : definitions.current()) {
      if (row.kind() == DefinitionKind.ENDPOINT) {
        definitions.versions(row.kind(), row.name()).stream()
            .limit(InstallationParts.ENDPOINT_VERSIONS_KEPT)
            .forEach(all::add);
      } else if (!NOT_FOLLOWED.contains(row.kind())) {
        all.add(row);
      }
    }
    return all;
  }

  private List<DefinitionRow> shared() {
    return shard.isWhole() || shard.number() > 0
        ? List.of()
        : definitions.current().stream()
            .filter(row -> SharedDefinitions.areNeeded(row.kind()))
            .toList();
  }

  /** Why nothing is published now, or null. */
  public @Nullable String problem() {
    Repeated now = publishing;
    String problem = now == null ? null : now.problem();
    SharedDefinitions from = taken;
    return problem == null && from != null ? from.problem() : problem;
  }

  /** Whether this process has a store to publish to. */
  public boolean isOn() {
    return settings != null;
  }

  /** What is published, and where. */
  public StoreView view() {
    if (settings == null) {
      return StoreView.NONE;
    }
    Publisher now = publisher;
    List<StoreView.StoredEdition> editions = new ArrayList<>();
    for (RunningIndex index : installation.running().indexes().values()) {
      for (Edition edition : index.editions().all()) {
        EditionManifest manifest = now == null ? null : now.published(name(index, edition));
        if (manifest != null) {
          editions.add(
              StoreView.StoredEdition.of(
                  index.index().name(), shard, manifest, edition == index.editions().live()));
        }
      }
    }
    return new StoreView(
        store == null ? null : store.place(),
        "builder",
        problem(),
        now == null ? null : now.builder().turn(),
        store == null ? null : store.traffic(),
        shard.isWhole() ? null : shard.of(),
        editions,
        null,
        null);
  }

  @PreDestroy
  void stop() {
    if (publishing != null) {
      publishing.close();
    }
    if (taken != null) {
      taken.close();
    }
    if (publisher != null) {
      publisher.close();
    }
    if (store != null) {
      store.close();
    }
  }
}
