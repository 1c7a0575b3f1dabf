package org.mnemex.engine.inspect;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.error.DamagedFileException;
import org.mnemex.engine.error.EngineException;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.read.DocBits;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.Folder;
import org.mnemex.engine.store.Manifest;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;
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
   * A field.
   *
   * @param kind its type and how it is indexed, as in the segments
   * @param terms how many terms and distinct values it has
   * @param bytes by part
   */
  public record FieldPart(String name, String kind, long terms, Map<Part, Long> bytes) {
    /** All its bytes. */
    public long allBytes() {
      return bytes.values().stream().mapToLong(Long::longValue).sum();
    }
  }

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
        reading.fields(),
        reading.bytes,
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
    private final Map<String, FieldPart> fields = new TreeMap<>();
    private final Map<Part, Long> bytes = new EnumMap<>(Part.class);
    private final List<String> damage = new ArrayList<>();

    Reading(Path folder) {
      this.folder = folder;
    }

    void take(Manifest.SegmentEntry entry) throws IOException {
      int deleted = 0;
      try {
        DocBits bits = entry.deletions() == 0 ? null : DeletionsFile.read(folder, entry);
        deleted = bits == null ? 0 : bits.count();
      } catch (EngineException e) {
        damage.add(String.valueOf(e.getMessage()));
      }
      segments.add(new SegmentPart(entry.id(), entry.documents(), deleted, entry.bytes()));
      try {
        SegmentFile file = SegmentFile.open(Folder.segment(folder, entry.id()));
        file.verify();
        file.trust();
        file.bytesByKind().forEach((kind, size) -> bytes.merge(Part.of(kind), size, Long::sum));
        takeFields(file);
      } catch (EngineException e) {
        damage.add(String.valueOf(e.getMessage()));
      }
    }

    private void takeFields(SegmentFile file) {
      Bytes list = file.section(SegmentLayout.FIELDS, SegmentLayout.NO_FIELD);
      int count = list.readVarInt();
      for (int field = 0; field < count; field++) {
        String name = text(list);
        String kind = text(list);
        Map<Integer, Long> byKind = file.bytesByKind(field);
        @Nullable FieldPart before = fields.get(name);
        Map<Part, Long> sizes = new EnumMap<>(Part.class);
        if (before != null) {
          sizes.putAll(before.bytes);
        }
        long terms = before == null ? 0 : before.terms;
        for (Map.Entry<Integer, Long> section : byKind.entrySet()) {
          int what = section.getKey();
          sizes.merge(Part.of(what), section.getValue(), Long::sum);
          if (what == SegmentLayout.TERMS || what == SegmentLayout.VALUES) {
            terms += new Dictionary(file.section(what, field)).size();
          }
        }
        fields.put(name, new FieldPart(name, kind, terms, sizes));
      }
    }

    private static String text(Bytes bytes) {
      return new String(bytes.readBytes(bytes.readVarInt()), StandardCharsets.UTF_8);
    }

    List<FieldPart> fields() {
      return fields.values().stream()
          .sorted((a, b) -> Long.compare(b.allBytes(), a.allBytes()))
          .toList();
    }
  }
}
