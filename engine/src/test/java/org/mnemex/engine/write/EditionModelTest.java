package org.mnemex.engine.write;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.AbstractList;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.Random;
import java.util.TreeMap;
import java.util.UUID;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.lifecycle.AfterTry;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.mnemex.engine.EditionCopy;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.TemporaryFolders;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.FolderInUseException;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.read.KeyWalk;
import org.mnemex.engine.read.Snapshot;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** What is visible and what survives, against plain maps; and what damage does. */
class EditionModelTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of("notes", FieldType.TEXT, Components.analysers().get("words"), Use.SEARCH),
              Field.of("height", FieldType.INTEGER, null, Use.FILTER)));

  private final TemporaryFolders folders = new TemporaryFolders();

  @AfterTry
  @AfterEach
  void clean() {
    folders.close();
  }

  @Property(tries = 50)
  void changesRefreshesCommitsMergesAndCrashes(@ForAll long seed) throws IOException {
    Random random = new Random(seed);
    Path path = folders.create();
    Map<String, Long> written = new HashMap<>();
    Map<String, Long> visible = new HashMap<>();
    Map<String, Long> durable = new HashMap<>();
    String visibleAt = null;
    String durableAt = null;
    EditionFolder edition = EditionFolder.open(path, SCHEMA);
    EditionCopy copy = new EditionCopy(SCHEMA);
    Path pool = folders.create();
    try {
      for (int step = 0; step < 150; step++) {
        String key = "k" + random.nextInt(40);
        switch (random.nextInt(12)) {
          case 0, 1, 2, 3, 4, 5 -> {
            long value = random.nextLong(1000);
            written.put(key, value);
            edition.put(document(key, value));
          }
          case 6 -> assertThat(edition.delete(key)).isEqualTo(written.remove(key) != null);
          case 7, 8 -> {
            visibleAt = "p" + step;
            edition.refresh(new Checkpoint(Map.of("position", visibleAt)));
            visible = new HashMap<>(written);
          }
          case 9 -> {
            visibleAt = "p" + step;
            edition.refresh(new Checkpoint(Map.of("position", visibleAt)));
            visible = new HashMap<>(written);
            edition.commit();
            durable = new HashMap<>(written);
            durableAt = visibleAt;
            if (random.nextBoolean()) {
              take(copy, edition, pool);
              check(copy.snapshot(), durable, durableAt);
              assertSameResults(copy, edition);
            }
          }
          case 10 -> edition.mergeStep();
          default -> {
            if (random.nextInt(4) == 0) {
              // A crash as far as the folder can tell: closing writes nothing.
              edition.close();
              edition = EditionFolder.open(path, SCHEMA);
              written = new HashMap<>(durable);
              visible = new HashMap<>(durable);
              visibleAt = durableAt;
            }
          }
        }
        check(edition.snapshot(), visible, visibleAt);
      }
    } finally {
      edition.close();
    }
  }

  private static void assertSameResults(EditionCopy copy, EditionFolder edition) {
    for (Query query :
        List.of(new Query.Everything(), new Query.OneOf("height", List.of(2L, 4L, 6L)))) {
      SearchRequest request = SearchRequest.of(query, 50, "notes", "height");
      assertThat(copy.view().search(request)).isEqualTo(edition.search(request));
    }
  }

  /** Gives a copy the last commit; its files are named by what they contain, as elsewhere. */
  private void take(EditionCopy copy, EditionFolder edition, Path pool) throws IOException {
    Path commit = folders.create();
    edition.link(commit);
    Map<String, Path> files = new HashMap<>();
    try (Stream<Path> all = Files.list(commit)) {
      for (Path file : all.toList()) {
        byte[] content = Files.readAllBytes(file);
        files.put(
            file.getFileName().toString(),
            Files.write(pool.resolve(UUID.nameUUIDFromBytes(content).toString()), content));
      }
    }
    Path manifest =
        files.entrySet().stream()
            .filter(file -> file.getKey().startsWith("manifest-"))
            .map(Map.Entry::getValue)
            .findFirst()
            .orElseThrow();
    copy.take(manifest, files::get);
  }

  /**
   * One thread merges and one commits all the time, three put and delete keys of their own; between
   * their rounds what is visible is compared with a map, and in the end what is durable.
   */
  @Property(tries = 3)
  void severalThreadsAtOnce(@ForAll long seed) throws Exception {
    Path path = folders.create();
    Map<String, Long> written = new ConcurrentHashMap<>();
    AtomicBoolean done = new AtomicBoolean();
    try (EditionWriter writer = new EditionWriter(path, SCHEMA, 4_000, false);
        ExecutorService threads = Executors.newFixedThreadPool(5)) {
      List<Future<?>> background =
          List.of(
              threads.submit(() -> repeat(done, writer::mergeStep)),
              threads.submit(
                  () ->
                      repeat(
                          done,
                          () -> {
                            writer.commit();
                            return 1;
                          })));
      for (int round = 0; round < 15; round++) {
        List<Future<?>> changes = new ArrayList<>();
        for (int thread = 0; thread < 3; thread++) {
          Random random = new Random(seed + 1_000L * round + thread);
          String own = "k" + thread + "-";
          // Now and then every document is another one, so that whole segments are deleted.
          boolean all = random.nextInt(3) == 0;
          changes.add(
              threads.submit(
                  () -> {
                    for (int i = 0; i < 40; i++) {
                      String key = own + (all ? i : random.nextInt(40));
                      if (random.nextInt(4) == 0) {
                        assertThat(writer.delete(key)).isEqualTo(written.remove(key) != null);
                      } else {
                        long value = random.nextLong(1000);
                        written.put(key, value);
                        writer.put(document(key, value));
                      }
                    }
                    return null;
                  }));
        }
        for (Future<?> change : changes) {
          change.get();
        }
        writer.refresh(new Checkpoint(Map.of("position", "p" + round)));
        for (int again = 0; again < 5; again++) {
          check(writer.snapshot(), written, "p" + round);
        }
      }
      done.set(true);
      for (Future<?> one : background) {
        one.get();
      }
      check(writer.snapshot(), written, "p14");
      writer.commit();
      writer.put(document("later", 1));
      writer.delete(written.keySet().iterator().next());
      writer.commit();
    }
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      check(edition.snapshot(), written, "p14");
    }
  }

  private static Void repeat(AtomicBoolean done, Callable<Integer> step) throws Exception {
    while (!done.get()) {
      step.call();
    }
    return null;
  }

  @Test
  void whatIsDeletedWhileItsSegmentsAreMergedStaysDeleted() throws Exception {
    Path path = folders.create();
    byte[] large = new byte[8 << 20];
    new Random(7).nextBytes(large);
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA);
        ExecutorService thread = Executors.newSingleThreadExecutor()) {
      for (int i = 0; i < 4; i++) {
        edition.put(new Document("k" + i, Map.of("height", List.of((long) i)), large, i));
        edition.refresh(Checkpoint.NONE);
      }
      Future<Integer> merged = thread.submit(() -> edition.compact(bytes -> {}));
      while (!Files.exists(path.resolve("seg-5.mnx"))) {
        Thread.onSpinWait();
      }
      for (int i = 0; i < 4; i++) {
        edition.delete("k" + i);
      }
      edition.refresh(Checkpoint.NONE);
      assertThat(merged.get()).isEqualTo(4);
      check(edition.snapshot(), Map.of(), null);
    }
  }

  @Test
  void aCompactionThatIsStoppedLeavesNothingBehind() throws Exception {
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      for (int i = 0; i < 4; i++) {
        edition.put(document("k" + i, i));
        edition.refresh(Checkpoint.NONE);
      }
      edition.delete("k0");
      edition.refresh(Checkpoint.NONE);
      edition.commit();
      List<Path> before = files(path);
      AtomicInteger parts = new AtomicInteger();
      edition.compact(bytes -> parts.incrementAndGet());
      assertThat(parts.get()).isGreaterThan(3);
      edition.put(document("k4", 4));
      edition.refresh(Checkpoint.NONE);
      int all = parts.getAndSet(0);
      for (int stop = 1; stop <= all; stop++) {
        int at = stop;
        assertThatThrownBy(
                () ->
                    edition.compact(
                        bytes -> {
                          if (parts.incrementAndGet() == at) {
                            throw new IllegalStateException("stopped");
                          }
                        }))
            .hasMessage("stopped");
        parts.set(0);
        check(edition.snapshot(), Map.of("k1", 1L, "k2", 2L, "k3", 3L, "k4", 4L), null);
      }
      edition.commit();
      edition.commit();
      assertThat(files(path)).doesNotContainAnyElementsOf(before).hasSize(4);
      assertThat(edition.compact(bytes -> {})).isEqualTo(4);
      check(edition.snapshot(), Map.of("k1", 1L, "k2", 2L, "k3", 3L, "k4", 4L), null);
    }
  }

  private static List<Path> files(Path folder) throws IOException {
    try (Stream<Path> files = Files.list(folder)) {
      return files.filter(file -> !file.endsWith("writer.lock")).sorted().toList();
    }
  }

  @Test
  void afterAnErrorInAPutNothingIsWritten() throws IOException {
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      edition.put(document("k1", 1));
      edition.refresh(Checkpoint.NONE);
      edition.commit();
      edition.put(document("k2", 2));
      assertThatThrownBy(
              () ->
                  edition.put(new Document("k3", Map.of("height", new Failing()), new byte[0], 1)))
          .isInstanceOf(StackOverflowError.class);
      for (ThrowingCallable write :
          List.<ThrowingCallable>of(
              () -> edition.put(document("k4", 4)),
              () -> edition.delete("k1"),
              () -> edition.refresh(Checkpoint.NONE))) {
        assertThatThrownBy(write)
            .isInstanceOf(IllegalStateException.class)
            .hasMessageContaining("before it is opened again, after: java.lang.StackOverflowError");
      }
      edition.commit();
      assertThat(edition.snapshot().documents()).isEqualTo(1);
    }
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      check(edition.snapshot(), Map.of("k1", 1L), null);
    }
  }

  /** Values that cannot be walked through. */
  private static final class Failing extends AbstractList<Object> {
    @Override
    public Object get(int index) {
      throw new StackOverflowError("made up");
    }

    @Override
    public int size() {
      return 1;
    }
  }

  private static void check(Snapshot snapshot, Map<String, Long> expected, String position) {
    Map<String, Long> found = new HashMap<>();
    snapshot.forEachHash((key, hash) -> assertThat(found.put(key, hash)).isNull());
    assertThat(found).isEqualTo(expected);
    checkWalk(snapshot, new TreeMap<>(expected));
    assertThat(snapshot.documents()).isEqualTo(expected.size());
    assertThat(snapshot.checkpoint().values().get("position")).isEqualTo(position);
    expected.forEach(
        (key, value) -> {
          assertThat(snapshot.hash(key)).isEqualTo(value);
          assertThat(new String(snapshot.document(key).record(), StandardCharsets.UTF_8))
              .isEqualTo("record " + value);
        });
  }

  private static void checkWalk(Snapshot snapshot, NavigableMap<String, Long> expected) {
    for (String after : new String[] {null, "k1", "k22", "k", "l"}) {
      Map<String, String> wanted = new LinkedHashMap<>();
      (after == null ? expected : expected.tailMap(after, false))
          .forEach((key, value) -> wanted.put(key, "record " + value));
      Map<String, String> walked = new LinkedHashMap<>();
      KeyWalk walk = new KeyWalk(snapshot, after);
      while (walk.next()) {
        byte[] record = walk.record();
        walked.put(walk.key(), new String(record, StandardCharsets.UTF_8));
      }
      assertThat(List.copyOf(walked.entrySet())).isEqualTo(List.copyOf(wanted.entrySet()));
    }
  }

  private static Document document(String key, long value) {
    return new Document(
        key,
        Map.of("notes", List.of("fern number " + value), "height", List.of(value)),
        ("record " + value).getBytes(StandardCharsets.UTF_8),
        value);
  }

  @Test
  void everyFlippedByteIsFoundAndNamed() throws IOException {
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      for (int i = 0; i < 5; i++) {
        edition.put(document("k" + i, i));
      }
      edition.refresh(new Checkpoint(Map.of("position", "1")));
      edition.commit();
      edition.delete("k3");
      edition.refresh(new Checkpoint(Map.of("position", "2")));
      edition.commit();
    }
    try (Stream<Path> files = Files.list(path)) {
      for (Path file : files.filter(f -> !f.toString().endsWith(".lock")).toList()) {
        byte[] good = Files.readAllBytes(file);
        for (int at = 0; at < good.length; at++) {
          byte[] bad = good.clone();
          bad[at] ^= 0x10;
          Files.write(file, bad);
          try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
            // A damaged manifest can be passed over, for the one before it. In a segment, what is
            // read is right, or the damage is found; and the full check finds it in any case.
            if (!file.getFileName().toString().startsWith("manifest-")) {
              readEverything(edition);
              edition.verify();
              throw new AssertionError("byte " + at + " of " + file + " changed unnoticed");
            }
          } catch (DamagedFileException e) {
            assertThat(e.file()).isEqualTo(file);
            assertThat(e).hasMessageContaining("rebuild the edition");
          }
          if (!Files.exists(file)) {
            return;
          }
        }
        Files.write(file, good);
      }
    }
  }

  private static void readEverything(EditionFolder edition) {
    Map<String, Long> hashes = new HashMap<>();
    edition.snapshot().forEachHash(hashes::put);
    assertThat(hashes).isEqualTo(Map.of("k0", 0L, "k1", 1L, "k2", 2L, "k4", 4L));
    for (String key : hashes.keySet()) {
      assertThat(new String(edition.snapshot().document(key).record(), StandardCharsets.UTF_8))
          .isEqualTo("record " + hashes.get(key));
    }
    Query fern = new Query.Phrase(Map.of("notes", 1.0), "fern number");
    assertThat(edition.search(SearchRequest.of(fern, 10, "notes")).hits())
        .extracting(hit -> hit.fields().get("notes").getFirst())
        .containsExactly("fern number 0", "fern number 1", "fern number 2", "fern number 4");
    Query high = new Query.Range("height", 2L, true, null, true);
    assertThat(edition.search(SearchRequest.of(high, 10)).total()).isEqualTo(2);
  }

  @Test
  void cutAndMissingSegmentsAreNamed() throws IOException {
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      edition.put(document("k", 1));
      edition.refresh(Checkpoint.NONE);
      edition.commit();
    }
    Path segment = path.resolve("seg-1.mnx");
    byte[] good = Files.readAllBytes(segment);
    Files.write(segment, Arrays.copyOf(good, good.length / 2));
    assertThatThrownBy(() -> EditionFolder.open(path, SCHEMA))
        .isInstanceOf(DamagedFileException.class)
        .hasMessageContaining("cut short");
    Files.delete(segment);
    assertThatThrownBy(() -> EditionFolder.open(path, SCHEMA))
        .isInstanceOf(DamagedFileException.class)
        .hasMessageContaining("seg-1.mnx: the file is missing");
  }

  @Test
  void severalThreadsWriteWhileOthersRefreshAndMerge() throws Exception {
    try (EditionFolder edition = EditionFolder.open(folders.create(), SCHEMA)) {
      AtomicInteger writing = new AtomicInteger(4);
      List<Callable<Void>> tasks = new ArrayList<>();
      for (int thread = 0; thread < 4; thread++) {
        int own = thread;
        tasks.add(
            () -> {
              try {
                for (int i = 0; i < 3_000; i++) {
                  // Each thread has keys of its own, written again and again; some go in the end.
                  edition.put(document("t" + own + "-" + i % 700, i));
                }
                for (int i = 0; i < 100; i++) {
                  assertThat(edition.delete("t" + own + "-" + i)).isTrue();
                }
              } finally {
                writing.decrementAndGet();
              }
              return null;
            });
      }
      tasks.add(
          () -> {
            while (writing.get() > 0) {
              Snapshot seen = edition.refresh(Checkpoint.NONE);
              Map<String, Long> once = new HashMap<>();
              seen.forEachHash((key, hash) -> assertThat(once.put(key, hash)).isNull());
              edition.mergeStep();
            }
            return null;
          });
      try (var threads = Executors.newFixedThreadPool(tasks.size())) {
        for (var done : threads.invokeAll(tasks)) {
          done.get();
        }
      }
      edition.refresh(Checkpoint.NONE);
      edition.compact(bytes -> {});
      Map<String, Long> expected = new HashMap<>();
      for (int thread = 0; thread < 4; thread++) {
        for (int i = 0; i < 3_000; i++) {
          if (i % 700 >= 100) {
            expected.put("t" + thread + "-" + i % 700, (long) i);
          }
        }
      }
      Map<String, Long> found = new HashMap<>();
      edition.snapshot().forEachHash(found::put);
      assertThat(found).isEqualTo(expected);
      assertThat(edition.snapshot().segments()).hasSize(1);
    }
  }

  @Test
  void twoWritersAreRefusedAndASnapshotNeverChanges() throws IOException {
    Path path = folders.create();
    try (EditionFolder edition = EditionFolder.open(path, SCHEMA)) {
      assertThatThrownBy(() -> EditionFolder.open(path, SCHEMA))
          .isInstanceOf(FolderInUseException.class);
      edition.put(document("k", 1));
      Snapshot before = edition.refresh(Checkpoint.NONE);
      edition.put(document("k", 2));
      edition.refresh(Checkpoint.NONE);
      edition.commit();
      assertThat(before.hash("k")).isEqualTo(1);
      assertThat(
              edition.search(SearchRequest.of(new Query.OneOf("height", List.of(2L)), 10)).total())
          .isEqualTo(1);
    }
  }
}
