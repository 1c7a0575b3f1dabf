package org.mnemex.sync.mapping;

import java.math.BigDecimal;
import java.nio.ByteBuffer;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.Document;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.sync.definition.FieldDefinition;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape.ColumnRef;
import org.mnemex.sync.source.AssembledRecord;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Makes documents of records, as an index definition says. */
public final class DocumentMapper {
  private static final ObjectMapper JSON = JsonMapper.shared();

  /** Longer values cannot be shown or quoted in a message whole. */
  private static final int ISO_DAY = 10;

  private static final int QUOTED_LENGTH = 60;

  private final IndexDefinition definition;

  public DocumentMapper(IndexDefinition definition) {
    this.definition = definition;
  }

  /**
   * The document of a record. Its stored record is the content as JSON, its hash the first 8 bytes
   * of the SHA-256 of that.
   *
   * @throws UnmappableRecordException if a value does not fit its field
   */
  public Document map(AssembledRecord record) throws UnmappableRecordException {
    Map<String, List<Object>> fields = new LinkedHashMap<>();
    for (FieldDefinition field : definition.fields()) {
      List<Object> values = values(field, record);
      if (!values.isEmpty()) {
        fields.put(field.field().name(), values);
      }
    }
    byte[] json = JSON.writeValueAsBytes(record.content());
    return new Document(record.key().text(), fields, json, hash(json));
  }

  private static List<Object> values(FieldDefinition field, AssembledRecord record)
      throws UnmappableRecordException {
    List<Object> raw = new ArrayList<>();
    ColumnRef from = field.from();
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
    List<String> texts = new ArrayList<>(raw.size());
    raw.forEach(value -> texts.add(value.toString()));
    List<String> cleaned = Cleaner.clean(texts, field.clean());
    List<Object> values = new ArrayList<>(cleaned.size());
    for (String value : cleaned) {
      values.add(convert(field, value));
    }
    return values;
  }

  private static void add(List<Object> values, @Nullable Object value) {
    if (value != null) {
      values.add(value);
    }
  }

  private static Object convert(FieldDefinition field, String value)
      throws UnmappableRecordException {
    FieldType type = field.field().type();
    try {
      return switch (type) {
        case TEXT, EXACT, PATH -> value;
        case INTEGER -> integer(value.strip());
        case DECIMAL -> new BigDecimal(value.strip());
        case DATE ->
            LocalDate.parse(value.strip().substring(0, Math.min(10, value.strip().length())));
        case INSTANT -> instant(value.strip());
        case BOOLEAN -> bool(value.strip().toLowerCase(Locale.ROOT));
        case PLACE, GROUP ->
            throw new IllegalStateException(type.word() + " is not made of one column's text");
      };
    } catch (NumberFormatException | DateTimeParseException e) {
      throw new UnmappableRecordException(
          field.field().name(),
          "'%s' is no %s"
              .formatted(
                  value.length() > QUOTED_LENGTH ? value.substring(0, QUOTED_LENGTH) + "…" : value,
                  switch (type) {
                    case DATE -> "date like 2026-05-04";
                    case INSTANT -> "moment like 2026-05-04T10:00:00Z";
                    case INTEGER -> "whole number";
                    case DECIMAL -> "number";
                    default -> "boolean";
                  }));
    }
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
