package org.mnemex.engine.inspect;

import java.nio.charset.StandardCharsets;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.read.Dictionary;
import org.mnemex.engine.store.Bytes;
import org.mnemex.engine.store.SegmentFile;
import org.mnemex.engine.store.SegmentLayout;

/** Adds up what the parts and fields of segments take. */
final class SizesByField {
  private final Map<String, FieldPart> fields = new TreeMap<>();
  private final Map<Part, Long> parts = new EnumMap<>(Part.class);

  /**
   * Adds a segment.
   *
   * @throws org.mnemex.engine.error.DamagedFileException if its list of fields has changed
   */
  void add(SegmentFile file) {
    file.bytesByKind().forEach((kind, size) -> parts.merge(Part.of(kind), size, Long::sum));
    Bytes list = file.section(SegmentLayout.FIELDS, SegmentLayout.NO_FIELD);
    int count = list.readVarInt();
    for (int field = 0; field < count; field++) {
      String name = text(list);
      String kind = text(list);
      Map<Integer, Long> byKind = file.bytesByKind(field);
      @Nullable FieldPart before = fields.get(name);
      Map<Part, Long> sizes = new EnumMap<>(Part.class);
      if (before != null) {
        sizes.putAll(before.bytes());
      }
      long terms = before == null ? 0 : before.terms();
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

  /** The fields, the largest first. */
  List<FieldPart> fields() {
    return fields.values().stream()
        .sorted((a, b) -> Long.compare(b.allBytes(), a.allBytes()))
        .toList();
  }

  /** Bytes by part. */
  Map<Part, Long> parts() {
    return Map.copyOf(parts);
  }
}
