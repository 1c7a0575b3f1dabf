package org.mnemex.sync.mapping;

import java.time.DateTimeException;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Place;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.extract.TextExtractor;
import org.mnemex.sync.source.AssembledRecord;

/** Maps records to documents by an index definition. */
public final class DocumentMapper {
  /** Longer values are truncated in messages. */
  private static final int QUOTED_LENGTH = 60;

  private static final Pattern WHOLE = Pattern.compile("\\s*[+-]?\\d+\\s*");

  private final IndexDefinition definition;

  private final TextExtractor extractor = new TextExtractor();

  /** A thread-safe mapper. */
  public DocumentMapper(IndexDefinition definition) {
    this.definition = definition;
  }

  /**
   * The content hash that a record's document would have; far cheaper than mapping.
   *
   * @param document the content hash that its document has, null if there is none. One of an
   *     earlier build is recognised, and is the answer if it is that of the record
   * @throws UnmappableRecordException if a file in it cannot be read
   */
  public ContentHash hash(AssembledRecord read, @Nullable ContentHash document)
      throws UnmappableRecordException {
    try {
      byte[] stored = ContentJson.of(Files.withTexts(read, definition, extractor).content());
      ContentHash hash = ContentHash.of(stored);
      return document == null
              || hash.equals(document)
              || !ContentHash.former(stored).equals(document)
          ? hash
          : document;
    } catch (RuntimeException | StackOverflowError e) {
      throw new UnmappableRecordException(e);
    }
  }

  /**
   * Maps a record. The stored record is its content as JSON, whose hash is the document's, see
   * {@link ContentHash}.
   *
   * @throws UnmappableRecordException if a value does not fit its field, or mapping fails in any
   *     other way: one record must not stop others
   */
  public Document map(AssembledRecord read) throws UnmappableRecordException {
    try {
      return mapped(read);
    } catch (RuntimeException | StackOverflowError e) {
      throw new UnmappableRecordException(e);
    }
  }

  private Document mapped(AssembledRecord read) throws UnmappableRecordException {
    AssembledRecord record = Files.withTexts(read, definition, extractor);
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (FieldDefinition field : definition.fields()) {
      List<Object> values = values(field, record);
      if (!values.isEmpty()) {
        fields.put(field.field().name(), values);
      }
    }
    byte[] stored = record.json();
    byte[] json = stored == null ? ContentJson.of(record.content()) : stored;
    return new Document(record.key().text(), fields, json, ContentHash.of(json).bits());
  }

  private static List<Object> values(FieldDefinition field, AssembledRecord record)
      throws UnmappableRecordException {
    return switch (field.field().type()) {
      case GROUP -> rows(field, record);
      case PLACE -> place(field, record);
      default -> converted(field, raw(field, field.from(), record));
    };
  }

  private static List<Object> raw(
      FieldDefinition field, @Nullable ColumnRef from, AssembledRecord record) {
    List<Object> raw = new ArrayList<>();
    if (from == null) {
      add(raw, record.content().computed().get(field.field().name()));
    } else if (from.join() == null) {
      add(raw, record.content().columns().get(from.column()));
    } else {
      switch (record.content().columns().get(from.join())) {
        case Map<?, ?> row -> add(raw, row.get(from.column()));
        case List<?> rows ->
            rows.forEach(row -> add(raw, row instanceof Map<?, ?> m ? m.get(from.column()) : null));
        case null, default -> {
          // No related row.
        }
      }
    }
    return raw;
  }

  private static List<Object> converted(FieldDefinition field, List<Object> raw)
      throws UnmappableRecordException {
    if (raw.isEmpty() && field.clean().isEmpty()) {
      return List.of();
    }
    List<String> texts = new ArrayList<>(raw.size());
    raw.forEach(value -> texts.add(value.toString()));
    List<String> cleaned;
    try {
      cleaned = Cleaner.clean(texts, field.clean());
    } catch (RuntimeException e) {
      throw new UnmappableRecordException(
          field.field().name(),
          "%s (values: %s)"
              .formatted(
                  e instanceof DateTimeException || e instanceof NumberFormatException
                      ? e.getMessage()
                      : e,
                  quoted(texts)));
    }
    if (!field.field().type().isNumeric()) {
      return List.copyOf(cleaned);
    }
    List<Object> values = new ArrayList<>(cleaned.size());
    for (String value : cleaned) {
      values.add(convert(field, value));
    }
    return values;
  }

  /** Child rows, each with the values of the group's fields. */
  private static List<Object> rows(FieldDefinition group, AssembledRecord record)
      throws UnmappableRecordException {
    ColumnRef first = group.children().getFirst().from();
    Object related = first == null ? null : record.content().columns().get(first.join());
    List<?> rows =
        related instanceof List<?> list ? list : related == null ? List.of() : List.of(related);
    List<Object> values = new ArrayList<>();
    for (Object row : rows) {
      Map<String, List<Object>> fields = new LinkedHashMap<>();
      for (FieldDefinition child : group.children()) {
        ColumnRef from = child.from();
        List<Object> raw = new ArrayList<>();
        add(raw, from != null && row instanceof Map<?, ?> map ? map.get(from.column()) : null);
        fields.put(child.field().ownName(), converted(child, raw));
      }
      values.add(new GroupRow(fields));
    }
    return values;
  }

  private static List<Object> place(FieldDefinition field, AssembledRecord record)
      throws UnmappableRecordException {
    List<Object> latitude = raw(field, field.from(), record);
    List<Object> longitude = raw(field, field.second(), record);
    if (latitude.isEmpty() || longitude.isEmpty()) {
      return List.of();
    }
    try {
      return List.of(
          new Place(
              Double.parseDouble(latitude.getFirst().toString()),
              Double.parseDouble(longitude.getFirst().toString())));
    } catch (IllegalArgumentException e) {
      throw new UnmappableRecordException(
          field.field().name(), "%s, %s is not a place".formatted(latitude, longitude));
    }
  }

  private static void add(List<Object> values, @Nullable Object value) {
    if (value instanceof List<?> list) {
      list.forEach(element -> add(values, element));
    } else if (value != null) {
      values.add(value);
    }
  }

  private static Object convert(FieldDefinition field, String value)
      throws UnmappableRecordException {
    FieldType type = field.field().type();
    try {
      Object number = type.numbers().read(value);
      // Whether the index can hold the value: a decimal or instant may be out of range.
      field.field().toNumber(number);
      return number;
    } catch (NumberFormatException | DateTimeParseException | ArithmeticException e) {
      String why =
          e instanceof ArithmeticException
                  || e instanceof NumberFormatException && WHOLE.matcher(value).matches()
              ? "'%s' is beyond what the index can hold as a %s; type 'exact' takes it as text"
              : "'%s' is not a %s";
      throw new UnmappableRecordException(
          field.field().name(), why.formatted(quoted(value), type.numbers().form()));
    }
  }

  private static String quoted(Object values) {
    String text = values.toString();
    return text.length() > QUOTED_LENGTH ? text.substring(0, QUOTED_LENGTH) + "…" : text;
  }
}
