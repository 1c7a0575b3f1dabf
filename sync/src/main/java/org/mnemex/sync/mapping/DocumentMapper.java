package org.mnemex.sync.mapping;

import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.document.Document;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.GroupRow;
import org.mnemex.engine.schema.Numbers;
import org.mnemex.engine.schema.Place;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.extract.TextExtractor;
import org.mnemex.sync.source.AssembledRecord;
import org.mnemex.sync.source.RecordKey;

/** Makes documents of records, as an index definition says. */
public final class DocumentMapper {
  /** Longer values cannot be shown or quoted in a message whole. */
  private static final int ISO_DAY = 10;

  private static final int QUOTED_LENGTH = 60;

  /** Fewer records are mapped sooner than other threads could begin. */
  private static final int WORTH_SHARING = 32;

  private final IndexDefinition definition;

  private final TextExtractor extractor = new TextExtractor();

  /** A mapper that may be used by any thread. */
  public DocumentMapper(IndexDefinition definition) {
    this.definition = definition;
  }

  /** What a record is in the index. */
  public sealed interface Mapping {
    /** Its document. */
    record Mapped(Document document) implements Mapping {}

    /** Why it cannot have one. */
    record Unmappable(String reason) implements Mapping {}
  }

  /** What some records are in the index; many are mapped on all processors. */
  public Map<RecordKey, Mapping> mapAll(Collection<AssembledRecord> records) {
    Stream<AssembledRecord> stream =
        records.size() < WORTH_SHARING ? records.stream() : records.parallelStream();
    return stream.collect(Collectors.toMap(AssembledRecord::key, this::mapping));
  }

  private Mapping mapping(AssembledRecord record) {
    try {
      return new Mapping.Mapped(map(record));
    } catch (UnmappableRecordException e) {
      return new Mapping.Unmappable(String.valueOf(e.getMessage()));
    }
  }

  /**
   * The content hash that the document of a record has, if it can have one; a fraction of what
   * mapping it costs.
   *
   * @throws UnmappableRecordException if a file in it cannot be read
   */
  public long hash(AssembledRecord read) throws UnmappableRecordException {
    try {
      return hash(ContentJson.of(Files.withTexts(read, definition, extractor).content()));
    } catch (RuntimeException | StackOverflowError e) {
      throw new UnmappableRecordException(e);
    }
  }

  /**
   * The document of a record. Its stored record is the content as JSON, its hash the first 8 bytes
   * of the SHA-256 of that.
   *
   * @throws UnmappableRecordException if a value does not fit its field, or mapping it fails in any
   *     other way: one record must not keep others from being indexed
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
    return new Document(record.key().text(), fields, json, hash(json));
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
      add(raw, record.content().get("=" + field.field().name()));
    } else if (from.join() == null) {
      add(raw, record.content().get(from.column()));
    } else {
      switch (record.content().get(from.join())) {
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
    Object related = first == null ? null : record.content().get(first.join());
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
          field.field().name(), "%s, %s is no place".formatted(latitude, longitude));
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
      Object converted =
          switch (type) {
            case TEXT, EXACT, PATH -> value;
            case INTEGER -> integer(value.strip());
            case DECIMAL -> Numbers.parse(value.strip());
            case DATE -> day(value.strip());
            case INSTANT -> instant(value.strip());
            case BOOLEAN -> bool(value.strip().toLowerCase(Locale.ROOT));
            case PLACE, GROUP ->
                throw new IllegalStateException(type.word() + " is not made of one column's text");
          };
      if (type.isNumeric()) {
        // Whether the index can hold it: a decimal or a moment may be too far away.
        field.field().toNumber(converted);
      }
      return converted;
    } catch (NumberFormatException | DateTimeParseException | ArithmeticException e) {
      throw new UnmappableRecordException(
          field.field().name(),
          "'%s' is no %s"
              .formatted(
                  quoted(value),
                  switch (type) {
                    case DATE -> "date like 2026-05-04";
                    case INSTANT -> "moment like 2026-05-04T10:00:00Z";
                    case INTEGER -> "whole number";
                    case DECIMAL -> "number";
                    default -> "boolean";
                  }));
    }
  }

  private static String quoted(Object values) {
    String text = values.toString();
    return text.length() > QUOTED_LENGTH ? text.substring(0, QUOTED_LENGTH) + "…" : text;
  }

  /** A day, or the day of a moment; the usual form without the cost of a formatter. */
  private static LocalDate day(String value) {
    String day = value.length() > ISO_DAY ? value.substring(0, ISO_DAY) : value;
    int year = digits(day, 0, 4);
    int month = digits(day, 5, 7);
    int dayOfMonth = digits(day, 8, 10);
    if (year < 0
        || month < 1
        || month > 12
        || dayOfMonth < 1
        || dayOfMonth > 28
        || day.charAt(4) != '-'
        || day.charAt(7) != '-') {
      return LocalDate.parse(day);
    }
    return LocalDate.of(year, month, dayOfMonth);
  }

  /** The number that some digits say, or -1 if they are none. */
  private static int digits(String text, int from, int to) {
    if (text.length() < to) {
      return -1;
    }
    int number = 0;
    for (int i = from; i < to; i++) {
      int digit = text.charAt(i) - '0';
      if (digit < 0 || digit > 9) {
        return -1;
      }
      number = 10 * number + digit;
    }
    return number;
  }

  /** A moment; without a zone it is in UTC, a day alone is its beginning. */
  private static Instant instant(String value) {
    String iso = value.replace(' ', 'T');
    if (iso.length() == ISO_DAY) {
      return LocalDate.parse(iso).atStartOfDay(ZoneOffset.UTC).toInstant();
    }
    return iso.matches(".*(Z|[+-]\\d\\d(:?\\d\\d)?)")
        ? OffsetDateTime.parse(iso).toInstant()
        : LocalDateTime.parse(iso).toInstant(ZoneOffset.UTC);
  }

  private static Long integer(String value) {
    // SQLite gives a whole number in a REAL column as 5.0.
    return Long.valueOf(value.endsWith(".0") ? value.substring(0, value.length() - 2) : value);
  }

  private static Boolean bool(String value) {
    return switch (value) {
      case "1", "true", "t", "yes" -> true;
      case "0", "false", "f", "no" -> false;
      default -> throw new NumberFormatException(value);
    };
  }

  private static long hash(byte[] json) {
    try {
      return ByteBuffer.wrap(MessageDigest.getInstance("SHA-256").digest(json)).getLong();
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
