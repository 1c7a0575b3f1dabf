package org.mnemex.sync.mapping;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.extract.ExtractionException;
import org.mnemex.sync.extract.TextExtractor;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.Blob;
import org.mnemex.sync.source.RecordContent;

/** Replaces the bytes of files by their text. */
final class Files {
  /** Suffix of a column's name for the reason why its file has no text. */
  static final String UNREADABLE = "~unreadable";

  private Files() {}

  /**
   * The record with texts instead of files.
   *
   * @throws UnmappableRecordException for an unreadable file that is not optional
   */
  static AssembledRecord withTexts(
      AssembledRecord record, IndexDefinition definition, TextExtractor extractor)
      throws UnmappableRecordException {
    if (definition.shape().files().isEmpty()) {
      return record;
    }
    Map<String, Object> content = new LinkedHashMap<>(record.content().columns());
    for (FieldDefinition field : definition.fields()) {
      FieldDefinition.File file = field.file();
      ColumnRef from = field.from();
      if (file == null || from == null) {
        continue;
      }
      if (from.join() == null) {
        content = row(content, field, file, from, extractor);
      } else {
        Object related = content.get(from.join());
        if (related instanceof Map<?, ?> map) {
          content.put(from.join(), row(map, field, file, from, extractor));
        } else if (related instanceof List<?> list) {
          List<Object> rows = new ArrayList<>();
          for (Object one : list) {
            rows.add(one instanceof Map<?, ?> map ? row(map, field, file, from, extractor) : one);
          }
          content.put(from.join(), rows);
        }
      }
    }
    return new AssembledRecord(
        record.key(), new RecordContent(content, record.content().computed()));
  }

  private static Map<String, Object> row(
      Map<?, ?> row,
      FieldDefinition field,
      FieldDefinition.File file,
      ColumnRef from,
      TextExtractor extractor)
      throws UnmappableRecordException {
    Map<String, Object> changed = new LinkedHashMap<>();
    row.forEach((name, value) -> changed.put((String) name, value));
    if (changed.get(from.column()) instanceof Blob blob) {
      changed.remove(from.column());
      Object media = file.media() == null ? null : changed.get(file.media().column());
      try {
        changed.put(from.column(), text(blob, media == null ? null : media.toString(), extractor));
      } catch (ExtractionException e) {
        if (!file.optional()) {
          throw new UnmappableRecordException(field.field().name(), String.valueOf(e.getMessage()));
        }
        changed.put(from.column() + UNREADABLE, String.valueOf(e.getMessage()));
      }
    }
    return changed;
  }

  private static String text(Blob blob, @Nullable String media, TextExtractor extractor)
      throws ExtractionException {
    if (blob.bytes() == null) {
      throw new ExtractionException(
          "the file has %,d bytes; up to %,d are read"
              .formatted(blob.size(), TextExtractor.MAX_BYTES),
          null);
    }
    return extractor.text(blob.bytes(), media);
  }
}
