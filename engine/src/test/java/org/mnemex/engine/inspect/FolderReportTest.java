package org.mnemex.engine.inspect;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.engine.EditionFolder;
import org.mnemex.engine.document.Checkpoint;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.Schema;
import org.mnemex.engine.schema.Use;
import org.mnemex.engine.text.Components;

/** What is told of an edition's folder, and links to its files. */
class FolderReportTest {
  private static final Schema SCHEMA =
      new Schema(
          List.of(
              Field.of(
                  "name",
                  FieldType.TEXT,
                  Components.analysers().get("words"),
                  Use.SEARCH,
                  Use.SHOW),
              Field.of("height", FieldType.INTEGER, null, Use.SORT, Use.FILTER)));
  private static final int PLANTS = 500;

  @TempDir private Path folder;
  private Path edition;
  private Path linked;

  /** Two segments, of which one has deletions; later commits are not in the linked folder. */
  @BeforeEach
  void write() throws Exception {
    edition = folder.resolve("edition-1");
    linked = folder.resolve("linked");
    try (EditionFolder open = EditionFolder.open(edition, SCHEMA)) {
      put(open, 0, PLANTS);
      open.commit();
      put(open, PLANTS, 2 * PLANTS);
      for (int i = 0; i < PLANTS; i += 5) {
        open.delete("p" + i);
      }
      open.refresh(new Checkpoint(Map.of("position", "17")));
      open.commit();
      open.link(linked);
      // Somebody holds the folder meanwhile.
      assertThat(FolderReport.of(edition).commit()).isEqualTo(2);
      open.compact(bytes -> {});
      open.commit();
      open.commit();
    }
  }

  private static void put(EditionFolder open, int from, int to) throws Exception {
    for (int i = from; i < to; i++) {
      open.put(
          new Document(
              "p" + i,
              Map.of("name", List.of("rose " + i), "height", List.of((long) i)),
              new byte[0],
              i));
    }
    open.refresh(Checkpoint.NONE);
  }

  @Test
  void everythingIsCounted() throws Exception {
    FolderReport report = FolderReport.of(linked);
    assertThat(report.commit()).isEqualTo(2);
    assertThat(report.checkpoint()).containsEntry("position", "17");
    assertThat(report.damage()).isEmpty();
    assertThat(report.unused()).isEmpty();
    assertThat(report.segments())
        .extracting(FolderReport.SegmentPart::documents)
        .containsExactly(PLANTS, PLANTS);
    assertThat(report.segments())
        .extracting(FolderReport.SegmentPart::deleted)
        .containsExactly(PLANTS / 5, 0);
    FieldPart name =
        report.fields().stream()
            .filter(field -> field.name().equals("name"))
            .findFirst()
            .orElseThrow();
    // "rose" in both, and a number of each plant.
    assertThat(name.terms()).isEqualTo(2L * PLANTS + 2);
    long inParts = report.bytes().values().stream().mapToLong(Long::longValue).sum();
    long inFiles = report.segments().stream().mapToLong(FolderReport.SegmentPart::bytes).sum();
    assertThat(inParts).isBetween(inFiles * 9 / 10, inFiles);
    assertThat(report.fields().stream().mapToLong(FieldPart::allBytes).sum()).isLessThan(inParts);
    try (EditionFolder open = EditionFolder.openCommitted(linked, SCHEMA)) {
      EditionSizes sizes = EditionSizes.of(open.snapshot());
      assertThat(sizes.fields()).isEqualTo(report.fields());
      assertThat(sizes.parts()).isEqualTo(report.bytes());
      assertThat(sizes.deleted()).isEqualTo(PLANTS / 5);
      // A fifth of one of two like segments.
      assertThat(sizes.deletedBytes()).isBetween(sizes.bytes() / 11, sizes.bytes() / 9);
    }
    // After compacting, one segment without deletions.
    assertThat(FolderReport.of(edition).segments())
        .extracting(FolderReport.SegmentPart::documents)
        .containsExactly(2 * PLANTS - PLANTS / 5);
  }

  @Test
  void linksHoldWhatWasThereAndCanBeOpened() throws Exception {
    try (EditionFolder restored = EditionFolder.openCommitted(linked, SCHEMA)) {
      restored.verify();
      assertThat(restored.snapshot().documents()).isEqualTo(2 * PLANTS - PLANTS / 5);
      assertThat(restored.snapshot().checkpoint().values()).containsEntry("position", "17");
    }
  }

  @Test
  void anyChangedByteIsFound() throws Exception {
    Random random = new Random(8);
    List<Path> files;
    try (Stream<Path> all = Files.list(linked)) {
      files = all.filter(file -> file.toString().matches(".*\\.(mnx|live)")).sorted().toList();
    }
    assertThat(files).hasSize(3);
    for (Path file : files) {
      byte[] whole = Files.readAllBytes(file);
      for (int i = 0; i < 40; i++) {
        byte[] changed = whole.clone();
        changed[random.nextInt(changed.length)] ^= (byte) (1 << random.nextInt(8));
        // Not through the link: the edition has the same file.
        Files.delete(file);
        Files.write(file, changed);
        assertThat(FolderReport.of(linked).damage())
            .singleElement()
            .asString()
            .contains(String.valueOf(file.getFileName()));
      }
      Files.write(file, whole);
    }
    assertThatThrownBy(() -> FolderReport.of(folder))
        .isInstanceOf(NoSuchFileException.class)
        .hasMessageContaining("no edition is here");
  }
}
