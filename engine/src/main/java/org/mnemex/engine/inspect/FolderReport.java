package org.mnemex.engine.inspect;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.write.DeletionsFile;

/**
 * What the folder of an edition holds as of its last commit. Every byte is compared with its
 * checksum. A service may use the folder meanwhile; files are never modified, so what is read is
 * right.
 *
 * @param commit number of the commit
 * @param checkpoint what the feed noted with it, such as its position
 * @param segments the segments of the commit
 * @param fields the fields, the largest first; numbers of terms are those of all segments together
 * @param bytes by part, of the segments that could be read
 * @param damage what cannot be used, in sentences that name the file
 * @param unused files that the commit does not need, such as those of the one before
 */
public record FolderReport(
    long commit,
    Map<String, String> checkpoint,
    List<SegmentPart> segments,
    List<FieldPart> fields,
    Map<Part, Long> bytes,
    List<String> damage,
    List<String> unused) {
  /**
   * A segment.
   *
   * @param deleted how many of its documents are deleted
   * @param bytes length of its file
   */
  public record SegmentPart(long id, int documents, int deleted, long bytes) {}

  /**
   * Reads a folder.
   *
   * @throws NoSuchFileException if there is no edition
   * @throws DamagedFileException if none of its manifests can be read
   */
  public static FolderReport of(Path folder) throws IOException {
    if (!Files.isDirectory(folder)) {
      throw new NoSuchFileException(folder.toString(), null, "there is no such folder");
    }
    Folder.Manifests manifests = Folder.manifests(folder);
    if (manifests.valid().isEmpty()) {
      throw new NoSuchFileException(
          folder.toString(),
          null,
          "no edition is here; name a folder such as mnemex-data/indexes/plants/edition-1");
    }
    Manifest manifest = manifests.valid().getFirst();
    Reading reading = new Reading(folder);
    reading.damage.addAll(manifests.damaged());
    for (Manifest.SegmentEntry entry : manifest.segments()) {
      reading.take(entry);
    }
    return new FolderReport(
        manifest.generation(),
        manifest.checkpoint().values(),
        List.copyOf(reading.segments),
        reading.sizes.fields(),
        reading.sizes.parts(),
        List.copyOf(reading.damage),
        unused(folder, manifest));
  }

  private static List<String> unused(Path folder, Manifest manifest) throws IOException {
    Set<Path> used = new HashSet<>();
    used.add(folder.resolve(Manifest.fileName(manifest.generation())));
    used.add(folder.resolve("writer.lock"));
    for (Manifest.SegmentEntry entry : manifest.segments()) {
      used.add(Folder.segment(folder, entry.id()));
      used.add(Folder.deletions(folder, entry.id(), entry.deletions()));
    }
    try (Stream<Path> files = Files.list(folder)) {
      return files
          .filter(file -> !used.contains(file))
          .map(file -> String.valueOf(file.getFileName()))
          .sorted()
          .toList();
    }
  }

  /** What was read so far. */
  private static final class Reading {
    private final Path folder;
    private final List<SegmentPart> segments = new ArrayList<>();
    private final SizesByField sizes = new SizesByField();
    private final List<String> damage = new ArrayList<>();

    Reading(Path folder) {
      this.folder = folder;
    }

    void take(Manifest.SegmentEntry entry) throws IOException {
      int deleted = 0;
      try {
        DocBits bits =
            entry.deletions() == 0
                ? null
                : DeletionsFile.read(
                    Folder.deletions(folder, entry.id(), entry.deletions()), entry);
        deleted = bits == null ? 0 : bits.count();
      } catch (EngineException e) {
        damage.add(String.valueOf(e.getMessage()));
      }
      segments.add(new SegmentPart(entry.id(), entry.documents(), deleted, entry.bytes()));
      try {
        SegmentFile file = SegmentFile.open(Folder.segment(folder, entry.id()));
        file.verify();
        file.trust();
        sizes.add(file);
      } catch (EngineException e) {
        damage.add(String.valueOf(e.getMessage()));
      }
    }
  }
}
