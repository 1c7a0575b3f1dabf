package org.mnemex.service.search;

import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.service.definition.FacetValues;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;

/** Encodes places in a result order as opaque texts. */
final class Cursors {
  /** Version of the encoding; others are refused. */
  private static final int FORM = 3;

  private Cursors() {}

  /** Encodes a place in the order and the basis of its scores. */
  static String write(SearchRequest.Cursor cursor) {
    SearchRequest.Basis basis = cursor.basis();
    ByteArrayOutputStream bytes = new ByteArrayOutputStream();
    try (DataOutputStream out = new DataOutputStream(bytes)) {
      out.writeByte(FORM);
      out.writeDouble(cursor.score());
      out.writeByte(cursor.sortValues().size());
      for (Object value : cursor.sortValues()) {
        write(out, value == null ? "" : "=" + value);
      }
      write(out, cursor.key());
      write(out, basis == null ? List.of() : basis.rarities());
      write(out, basis == null ? List.of() : basis.averageLengths());
      out.writeLong(basis == null || basis.now() == null ? 0 : basis.now().toEpochMilli());
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes.toByteArray());
  }

  private static void write(DataOutputStream out, String text) throws IOException {
    byte[] utf8 = text.getBytes(StandardCharsets.UTF_8);
    out.writeInt(utf8.length);
    out.write(utf8);
  }

  private static void write(DataOutputStream out, List<Double> numbers) throws IOException {
    out.writeInt(numbers.size());
    for (double number : numbers) {
      out.writeDouble(number);
    }
  }

  /**
   * Reads what {@link #write} wrote.
   *
   * @param sorts the fields that are sorted by; none: by relevance
   */
  static SearchRequest.Cursor read(String text, List<Field> sorts) {
    try {
      ByteBuffer bytes = ByteBuffer.wrap(Base64.getUrlDecoder().decode(text));
      if (bytes.get() != FORM) {
        throw new IllegalArgumentException("another form");
      }
      double score = bytes.getDouble();
      if (bytes.get() != sorts.size()) {
        throw new IllegalArgumentException("another sort");
      }
      List<@Nullable Object> values = new ArrayList<>();
      for (Field sort : sorts) {
        values.add(value(text(bytes), sort));
      }
      String key = text(bytes);
      List<Double> rarities = numbers(bytes);
      List<Double> averageLengths = numbers(bytes);
      long now = bytes.getLong();
      return new SearchRequest.Cursor(
          values,
          score,
          key,
          new SearchRequest.Basis(
              rarities, averageLengths, now == 0 ? null : Instant.ofEpochMilli(now)));
    } catch (IllegalArgumentException | BufferUnderflowException e) {
      throw new ProblemException(
          ProblemType.BAD_AFTER, "'after' is not the 'next' of an answer to this search");
    }
  }

  private static String text(ByteBuffer bytes) {
    byte[] utf8 = new byte[count(bytes, 1)];
    bytes.get(utf8);
    return new String(utf8, StandardCharsets.UTF_8);
  }

  private static List<Double> numbers(ByteBuffer bytes) {
    return Stream.generate(bytes::getDouble).limit(count(bytes, Double.BYTES)).toList();
  }

  /** A count, bounded by the bytes that follow: callers cannot make us allocate more. */
  private static int count(ByteBuffer bytes, int size) {
    int count = bytes.getInt();
    if (count < 0 || count > bytes.remaining() / size) {
      throw new IllegalArgumentException("a wrong count");
    }
    return count;
  }

  private static @Nullable Object value(String text, Field sort) {
    if (text.isEmpty()) {
      return null;
    }
    return sort.type() == FieldType.PLACE
        ? (Object) Double.valueOf(text.substring(1))
        : FacetValues.value(text.substring(1), sort);
  }
}
