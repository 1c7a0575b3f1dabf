package org.mnemex.service.search;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.SearchRequest;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.service.run.FacetValues;
import org.mnemex.service.web.ProblemException;

/** Places in an order of results as texts that callers send back, without looking inside. */
final class Cursors {
  private Cursors() {}

  static String write(SearchRequest.Cursor cursor) {
    String value = cursor.sortValue() == null ? "" : "=" + cursor.sortValue();
    byte[] sort = value.getBytes(StandardCharsets.UTF_8);
    byte[] key = cursor.key().getBytes(StandardCharsets.UTF_8);
    ByteBuffer bytes = ByteBuffer.allocate(12 + sort.length + key.length);
    bytes.putDouble(cursor.score()).putInt(sort.length).put(sort).put(key);
    return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes.array());
  }

  /**
   * Reads what {@link #write} wrote.
   *
   * @param sort the field of the sort; null: by relevance
   */
  static SearchRequest.Cursor read(String text, @Nullable Field sort) {
    try {
      ByteBuffer bytes = ByteBuffer.wrap(Base64.getUrlDecoder().decode(text));
      double score = bytes.getDouble();
      byte[] value = new byte[Math.min(bytes.getInt(), bytes.remaining())];
      bytes.get(value);
      byte[] key = new byte[bytes.remaining()];
      bytes.get(key);
      return new SearchRequest.Cursor(
          sort == null ? null : value(new String(value, StandardCharsets.UTF_8), sort),
          score,
          new String(key, StandardCharsets.UTF_8));
    } catch (IllegalArgumentException
        | java.nio.BufferUnderflowException
        | NegativeArraySizeException e) {
      throw ProblemException.badRequest(
          "bad-after", "'after' is not what an answer of this search gave as 'next'", null);
    }
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
