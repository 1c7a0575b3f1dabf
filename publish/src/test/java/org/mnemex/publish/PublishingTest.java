package org.mnemex.publish;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.publish.file.Bandwidth;
import org.mnemex.publish.file.FilePool;
import org.mnemex.publish.file.PoolTooSmallException;
import org.mnemex.publish.file.PublishedFile;

/**
 * Builders and followers of one store, in random order, with failing calls: what is named is always
 * there and right, a builder that was superseded changes nothing any more, and nothing is left.
 */
class PublishingTest {
  private static final int PART_BYTES = 64;
  private static final Duration GRACE = Duration.ofMinutes(10);
  private static final String SEEN = "seen";

  private final List<Path> folders = new ArrayList<>();

  private Path folder() throws IOException {
    Path made = Files.createTempDirectory("mnemex-publishing");
    folders.add(made);
    return made;
  }

  @AfterTry
  void removeFolders() throws IOException {
    for (Path folder : folders) {
      try (Stream<Path> all = Files.walk(folder)) {
        for (Path one : all.sorted((a, b) -> b.compareTo(a)).toList()) {
          Files.deleteIfExists(one);
        }
      }
    }
    folders.clear();
  }

  /** A clock that is put forward by hand. */
  private static final class Hand extends Clock {
    Instant now = Instant.parse("2026-05-01T08:00:00Z");

    @Override
    public Instant instant() {
      return now;
    }

    @Override
    public ZoneOffset getZone() {
      return ZoneOffset.UTC;
    }

    @Override
    public Clock withZone(java.time.ZoneId zone) {
      return this;
    }
  }

  /** An edition as a builder has it on its disk. */
  private final class Built {
    final EditionName name;
    final Path folder = folder();
    final Map<String, Path> files = new TreeMap<>();
    int commits;

    Built(int number) throws IOException {
      this.name = new EditionName("plants", number);
    }

    /** A new commit: some files stay, some go, some come. */
    void commit(Random random) throws IOException {
      commits++;
      files.keySet().removeIf(file -> file.startsWith("manifest-") || random.nextInt(3) == 0);
      for (int i = random.nextInt(3); i >= 0; i--) {
        byte[] content = new byte[random.nextInt(4) * PART_BYTES + random.nextInt(PART_BYTES)];
        random.nextBytes(content);
        add("seg-%d-%d.mnx".formatted(commits, i), content);
      }
      add("manifest-" + commits, ("commit " + commits).getBytes(StandardCharsets.UTF_8));
    }

    private void add(String file, byte[] content) throws IOException {
      files.put(file, Files.write(folder.resolve(file), content));
    }

    Map<String, String> contents() throws IOException {
      Map<String, String> contents = new TreeMap<>();
      for (Map.Entry<String, Path> file : files.entrySet()) {
        contents.put(file.getKey(), hex(Files.readAllBytes(file.getValue())));
      }
      return contents;
    }
  }

  private static String hex(byte[] bytes) {
    return java.util.HexFormat.of().formatHex(bytes);
  }

  private static EditionManifest.State state(EditionName name, int commit) {
    return new EditionManifest.State(name, "commit " + commit, null);
  }

  @Property(tries = 150)
  void whatIsNamedIsThereAndOnlyTheLastBuilderWrites(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Hand clock = new Hand();
    FaultyStore store = new FaultyStore(new Random(seed + 1));
    Map<String, Long> turns = new HashMap<>();
    Set<String> written = ConcurrentHashMap.newKeySet();
    store.watcher =
        (name, to) -> {
          if (to != null) {
            written.add(name);
            long turn = turn(name, to);
            assertThat(turn)
                .as("turn of %s", name)
                .isGreaterThanOrEqualTo(turns.getOrDefault(name, 0L));
            turns.put(name, turn);
          }
        };
    Map<Integer, Built> editions = new TreeMap<>(Map.of(1, new Built(1)));
    // The files of each commit, by edition and commit: a follower must see exactly these.
    Map<String, Map<String, String>> commits = new HashMap<>();
    List<Publisher> builders = new ArrayList<>();
    boolean abandoned = false;
    Follower follower = new Follower(store, folder());
    try (FilePool pool =
        new FilePool(folder(), store, Long.MAX_VALUE, Bandwidth.UNLIMITED, clock)) {
      for (int step = 0; step < 60; step++) {
        store.faults = step % 7 == 0 ? 40 : 5;
        clock.now = clock.now.plusSeconds(random.nextInt(200));
        // Mostly the newest, sometimes one that was superseded and wakes up.
        @Nullable Publisher builder =
            builders.isEmpty()
                ? null
                : random.nextInt(4) > 0
                    ? builders.getLast()
                    : builders.get(random.nextInt(builders.size()));
        Built edition = new ArrayList<>(editions.values()).get(random.nextInt(editions.size()));
        try {
          int what = random.nextInt(12);
          if (builder == null || what == 0) {
            // One that fails while it takes over may have superseded the others already.
            abandoned = true;
            builders.add(
                new Publisher(store, "quillmere", Bandwidth.UNLIMITED, PART_BYTES, GRACE, clock));
            abandoned = false;
          } else if (what < 5) {
            if (builder == builders.getLast()) {
              edition.commit(random);
            }
            commits.put(edition.name + " " + edition.commits, edition.contents());
            if (!edition.files.isEmpty()) {
              builder.publish(
                  state(edition.name, edition.commits), edition.files, new byte[] {'[', ']'});
            }
          } else if (what == 5 && builder.published(edition.name) != null) {
            builder.confirm(builder.published(edition.name).state());
          } else if (what == 6 && builder.published(edition.name) != null) {
            builder.offer(new Catalogue.Content(List.of(edition.name), "step " + step));
          } else if (what == 7) {
            Set<EditionName> existing =
                editions.values().stream().map(one -> one.name).collect(Collectors.toSet());
            builder.sweep(random.nextBoolean() ? existing : Set.of());
          } else if (what == 8 && editions.size() < 3) {
            editions.put(10 + step, new Built(10 + step));
          } else {
            follow(follower, store, written, pool, commits);
          }
        } catch (SupersededException e) {
          assertThat(abandoned || builder != builders.getLast()).isTrue();
        } catch (IOException e) {
          assertThat(store.faults).as(e.getMessage()).isPositive();
        }
        assertNamedPartsAreThere(store);
      }
      store.faults = 0;
      assertNothingIsLeft(store, clock);
      follow(follower, store, written, pool, commits);
    } finally {
      builders.forEach(Publisher::close);
    }
  }

  private static long turn(String name, byte[] content) {
    try {
      return name.equals(Catalogue.OBJECT)
          ? Json.read(name, content, Catalogue.class, 1).builder().turn()
          : Json.read(name, content, EditionManifest.class, 1).builder().turn();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  /** Looks only at what was written, which shows as much as looking at everything. */
  private void follow(
      Follower follower,
      FaultyStore store,
      Set<String> written,
      FilePool pool,
      Map<String, Map<String, String>> commits)
      throws IOException {
    Follower.Offer offer = follower.look(written);
    written.clear();
    int faults = store.faults;
    store.faults = 0;
    assertThat(offer).isEqualTo(new Follower(store, folder()).look());
    store.faults = faults;
    if (offer == null) {
      return;
    }
    for (EditionManifest manifest : offer.editions()) {
      pool.fetch(manifest.files(), List.of());
      Map<String, String> seen = new TreeMap<>();
      for (PublishedFile file : manifest.files()) {
        if (!file.name().equals(EditionManifest.SET_ASIDE)) {
          seen.put(file.name(), hex(Files.readAllBytes(pool.path(file))));
        }
      }
      assertThat(seen)
          .as(SEEN)
          .isEqualTo(
              commits.get(manifest.state().edition() + manifest.state().trueAt().substring(6)));
    }
    follower.remember(offer);
    assertThat(follower.remembered()).isEqualTo(offer);
  }

  /** Whoever reads the store at this moment finds all that is named. */
  private static void assertNamedPartsAreThere(FaultyStore store) throws IOException {
    byte[] catalogue = store.objects.get(Catalogue.OBJECT);
    if (catalogue == null) {
      return;
    }
    for (EditionName live : Json.read("", catalogue, Catalogue.class, 1).content().live()) {
      assertThat(store.objects).containsKey(live.object());
    }
    for (Map.Entry<String, byte[]> object : store.objects.entrySet()) {
      if (object.getKey().startsWith(EditionManifest.EDITIONS)) {
        for (PublishedFile file :
            Json.read("", object.getValue(), EditionManifest.class, 1).files()) {
          file.parts().forEach(part -> assertThat(store.objects).containsKey(part.object()));
        }
      }
    }
  }

  private static void assertNothingIsLeft(FaultyStore store, Hand clock) throws IOException {
    try (Publisher last =
        new Publisher(store, "quillmere", Bandwidth.UNLIMITED, PART_BYTES, GRACE, clock)) {
      Set<EditionName> live = new HashSet<>(last.offered().live());
      last.sweep(Set.of());
      clock.now = clock.now.plus(GRACE);
      last.sweep(Set.of());
      Set<String> expected = new HashSet<>(Set.of(Catalogue.OBJECT));
      for (EditionName name : live) {
        expected.add(name.object());
        last.published(name)
            .files()
            .forEach(file -> file.parts().forEach(part -> expected.add(part.object())));
      }
      assertThat(store.objects.keySet()).isEqualTo(expected);
    }
  }

  @Test
  void aStoreOfAnotherInstallationIsLeftAlone() throws IOException {
    FaultyStore store = new FaultyStore(new Random(1));
    new Publisher(store, "quillmere", Bandwidth.UNLIMITED, GRACE, Clock.systemUTC()).close();
    Map<String, byte[]> before = Map.copyOf(store.objects);

    assertThatThrownBy(
            () -> new Publisher(store, "elsewhere", Bandwidth.UNLIMITED, GRACE, Clock.systemUTC()))
        .isInstanceOf(StoreTakenException.class)
        .hasMessageContaining("belongs to installation quillmere");
    assertThat(store.objects).isEqualTo(before);
  }

  @Test
  void whatNewerVersionsWriteIsPassedOverOrRefused() throws IOException {
    FaultyStore store = new FaultyStore(new Random(1));
    String catalogue =
        "{'format': %d, 'shape': 'new', 'builder': {'installation': 'quillmere', 'process': 'a', 'turn': 1},"
            + " 'content': {'live': [], 'service': 'x', 'colour': 'green'}}";
    store.objects.put(
        Catalogue.OBJECT,
        catalogue.formatted(1).replace('\'', '"').getBytes(StandardCharsets.UTF_8));
    Follower follower = new Follower(store, folder());
    assertThat(follower.look().content().service()).isEqualTo("x");

    store.objects.put(
        Catalogue.OBJECT,
        catalogue.formatted(2).replace('\'', '"').getBytes(StandardCharsets.UTF_8));
    assertThatThrownBy(follower::look)
        .hasMessageContaining("form 2, of a newer version")
        .hasMessageContaining("Update this machine first");
    assertThatThrownBy(
            () -> new Publisher(store, "quillmere", Bandwidth.UNLIMITED, GRACE, Clock.systemUTC()))
        .hasMessageContaining("form 2");
    removeFolders();
  }

  @Test
  void whatMayBeNamedIsNotSweptAway(@TempDir Path temp) throws IOException {
    FaultyStore store = new FaultyStore(new Random(1));
    Hand clock = new Hand();
    EditionName one = new EditionName("plants", 1);
    EditionName two = new EditionName("plants", 2);
    try (Publisher publisher =
        new Publisher(store, "quillmere", Bandwidth.UNLIMITED, PART_BYTES, GRACE, clock)) {
      byte number = 0;
      for (EditionName edition : List.of(one, two, one)) {
        // The second manifest of the first edition is written, and seems not to be.
        store.losing = publisher.published(edition) == null ? null : edition.object();
        String name = "manifest-" + number;
        Path file = Files.write(temp.resolve(name), new byte[] {number++});
        try {
          publisher.publish(state(edition, 1), Map.of(name, file), new byte[0]);
        } catch (IOException e) {
          assertThat(store.losing).isNotNull();
        }
      }
      publisher.offer(new Catalogue.Content(List.of(one), ""));
      store.losing = Catalogue.OBJECT;
      assertThatThrownBy(() -> publisher.offer(new Catalogue.Content(List.of(two), "")))
          .hasMessageContaining("is lost");

      publisher.sweep(Set.of());
      clock.now = clock.now.plus(GRACE);
      publisher.sweep(Set.of());
      assertNamedPartsAreThere(store);
      assertThat(store.objects).containsKeys(one.object(), two.object());
    }
  }

  @Test
  void aManifestCannotNameAFileOutsideThePool() throws IOException {
    FaultyStore store = new FaultyStore(new Random(1));
    try (Publisher publisher =
        new Publisher(
            store, "quillmere", Bandwidth.UNLIMITED, PART_BYTES, GRACE, Clock.systemUTC())) {
      EditionName edition = new EditionName("plants", 1);
      Path file = Files.write(folder().resolve("manifest-1"), new byte[] {1});
      publisher.publish(state(edition, 1), Map.of("manifest-1", file), new byte[0]);
      publisher.offer(new Catalogue.Content(List.of(edition), ""));
      String manifest =
          new String(
              Objects.requireNonNull(store.objects.get(edition.object())), StandardCharsets.UTF_8);
      String hash = publisher.published(edition).commit().parts().getFirst().sha256();
      for (String wrong :
          List.of(
              manifest.replace(hash, "../../outside"),
              manifest.replace("\"bytes\":1}", "\"bytes\":2000000000}"))) {
        assertThat(wrong).isNotEqualTo(manifest);
        store.objects.put(edition.object(), wrong.getBytes(StandardCharsets.UTF_8));
        assertThatThrownBy(new Follower(store, folder())::look)
            .isInstanceOf(IOException.class)
            .hasMessageContaining("cannot be read")
            .hasMessageContaining("there is no part of");
      }
    }
    removeFolders();
  }

  @Test
  void aPoolKeepsWithinItsLimitWhatWasNeededLast(@TempDir Path temp) throws IOException {
    FaultyStore store = new FaultyStore(new Random(1));
    Hand clock = new Hand();
    try (Publisher publisher =
            new Publisher(store, "quillmere", Bandwidth.UNLIMITED, PART_BYTES, GRACE, clock);
        FilePool pool =
            new FilePool(temp.resolve("pool"), store, 300, Bandwidth.UNLIMITED, clock)) {
      List<PublishedFile> files = new ArrayList<>();
      for (int i = 0; i < 4; i++) {
        byte[] content = new byte[100];
        content[0] = (byte) (i + 1);
        EditionName edition = new EditionName("plants", i);
        publisher.publish(
            state(edition, 1),
            Map.of("manifest-1", Files.write(temp.resolve("manifest-1-" + i), content)),
            new byte[0]);
        files.add(publisher.published(edition).commit());
      }
      for (int i : new int[] {0, 1, 2, 0, 3}) {
        clock.now = clock.now.plusSeconds(1);
        pool.fetch(List.of(files.get(i)), List.of());
      }
      assertThat(pool.path(files.get(1))).doesNotExist();
      assertThat(pool.path(files.get(0))).exists();
      assertThat(pool.bytes()).isEqualTo(300);

      clock.now = clock.now.plus(Duration.ofHours(1));
      pool.fetch(List.of(files.get(2)), List.of());
      pool.fetch(List.of(files.get(1)), List.of(files.get(0)));
      assertThat(pool.path(files.get(3))).as("not needed for an hour").doesNotExist();
      assertThat(pool.path(files.get(2))).exists();
      pool.fetch(List.of(files.get(3)), List.of());

      assertThatThrownBy(() -> pool.fetch(List.of(files.get(0)), files))
          .isInstanceOf(PoolTooSmallException.class)
          .hasMessageContaining("may keep 300 bytes, but 400 are needed");

      String part = files.get(0).parts().getFirst().object();
      store.objects.put(part, new byte[] {1});
      assertThatThrownBy(() -> pool.fetch(List.of(files.get(0)), List.of()))
          .hasMessageContaining("has changed");
      assertThat(pool.path(files.get(0))).doesNotExist();
    }
  }
}
