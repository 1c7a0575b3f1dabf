package org.mnemex.sync.edition;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.sync.Plants;

/** Merging beside a feed that has nothing to do. */
class MergingTest {
  private static final Checkpoint LAST = new Checkpoint(Map.of("position", "17"));
  private static final int SEGMENTS = 8;
  private static final Duration WAIT = Duration.ofSeconds(30);

  @TempDir private Path folder;
  @TempDir private Path copies;
  private EditionFolder edition;
  private Merging merging;

  @BeforeEach
  void writeSmallSegments() throws IOException {
    edition = EditionFolder.open(folder, Plants.DEFINITION.schema());
    for (int i = 0; i < SEGMENTS; i++) {
      edition.put(new Document("QB-" + i, Map.of("name", List.of("fern")), new byte[] {1}, i));
      edition.refresh(LAST);
    }
    edition.commit();
    merging =
        new Merging(edition, "merge-plants", () -> "plants", failure -> {}, Duration.ofMillis(1));
  }

  @AfterEach
  void close() throws Exception {
    merging.stop();
    merging.hasEnded(WAIT);
    edition.close();
  }

  @Test
  void whatIsMergedIsDurableWithoutAnotherChange() throws Exception {
    assertThat(committedSegments()).isEqualTo(SEGMENTS);

    merging.wake();

    assertEventually(() -> files("seg-") == 1);
    assertThat(committedSegments()).isEqualTo(1);
    assertThat(edition.snapshot().checkpoint()).isEqualTo(LAST);
  }

  @Test
  void aCommitThatFailsIsTold() throws Exception {
    Path inTheWay = folder.resolve("manifest-" + (newestManifest() + 1));
    Files.createDirectories(inTheWay.resolve("not-empty"));

    merging.wake();

    assertEventually(() -> merging.problem() != null);
    assertThat(merging.problem()).startsWith("segments are not merged");
  }

  private int committedSegments() throws IOException {
    Path copy = Files.createTempDirectory(copies, "copy").resolve("edition");
    edition.link(copy);
    try (EditionFolder opened = EditionFolder.openCommitted(copy, Plants.DEFINITION.schema())) {
      return opened.snapshot().segments().size();
    }
  }

  private long files(String prefix) throws IOException {
    try (var names = Files.list(folder)) {
      return names.filter(name -> name.getFileName().toString().startsWith(prefix)).count();
    }
  }

  private long newestManifest() throws IOException {
    try (var names = Files.list(folder)) {
      return names
          .map(name -> name.getFileName().toString())
          .filter(name -> name.startsWith("manifest-"))
          .mapToLong(name -> Long.parseLong(name.substring("manifest-".length())))
          .max()
          .orElseThrow();
    }
  }

  private interface Check {
    boolean holds() throws IOException;
  }

  private static void assertEventually(Check check) throws IOException {
    Instant end = Instant.now().plus(WAIT);
    while (!check.holds()) {
      assertThat(Instant.now()).isBefore(end);
      Thread.onSpinWait();
    }
  }
}
