package org.mnemex.engine.search;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.schema.Field;
import org.mnemex.engine.schema.FieldType;
import org.mnemex.engine.schema.NumberRange;
import org.mnemex.engine.schema.Paths;

/**
 * Which values of an exact, path or numeric field a request asks for by its filter and choices: a
 * value that meets any condition which results have to meet, or may meet instead of another. What
 * is excluded does not count.
 */
final class AskedValues {
  private final Field field;
  private final List<Predicate<Object>> conditions = new ArrayList<>();

  /**
   * @param asked the request's filter and choices
   */
  AskedValues(List<Query> asked, Field field) {
    this.field = field;
    asked.forEach(this::collect);
  }

  /** Whether nothing is asked of the field. */
  boolean isEmpty() {
    return conditions.isEmpty();
  }

  /** Whether a value of the field is asked for. */
  boolean has(Object value) {
    return conditions.stream().anyMatch(condition -> condition.test(value));
  }

  private void collect(Query query) {
    switch (query) {
      case Query.AllOf all -> all.clauses().forEach(this::collect);
      case Query.AnyOf any -> any.clauses().forEach(this::collect);
      case Query.Some some -> some.clauses().forEach(this::collect);
      case Query.OneOf one when one.field().equals(field.name()) -> conditions.add(oneOf(one));
      case Query.Range range when range.field().equals(field.name()) ->
          conditions.add(field.type().isOrdinal() ? textRange(range) : numberRange(range));
      case Query.StartsWith starts when starts.field().equals(field.name()) -> {
        String beginning = field.term(starts.prefix());
        conditions.add(value -> field.term((String) value).startsWith(beginning));
      }
      default -> {
        // It asks for no value of the field.
      }
    }
  }

  private Predicate<Object> oneOf(Query.OneOf query) {
    if (!field.type().isOrdinal()) {
      long[] wanted = NumberRange.exact(field, query.values());
      return value -> NumberRange.has(wanted, field.toNumber(value));
    }
    Set<String> wanted = new HashSet<>();
    query.values().forEach(value -> wanted.add(field.term((String) value)));
    if (field.type() == FieldType.PATH) {
      return value -> Paths.withAncestors((String) value).stream().anyMatch(wanted::contains);
    }
    return value -> wanted.contains(field.term((String) value));
  }

  private Predicate<Object> numberRange(Query.Range query) {
    NumberRange range =
        NumberRange.of(field, query.from(), query.withFrom(), query.to(), query.withTo());
    return value -> {
      long number = field.toNumber(value);
      return number >= range.from() && number <= range.to();
    };
  }

  private Predicate<Object> textRange(Query.Range query) {
    byte[] from = bytes(query.from());
    byte[] to = bytes(query.to());
    return value -> {
      byte[] own = field.term((String) value).getBytes(StandardCharsets.UTF_8);
      int low = from == null ? 1 : Arrays.compareUnsigned(own, from);
      int high = to == null ? -1 : Arrays.compareUnsigned(own, to);
      return (low > 0 || low == 0 && query.withFrom()) && (high < 0 || high == 0 && query.withTo());
    };
  }

  private byte @Nullable [] bytes(@Nullable Object text) {
    return text == null ? null : field.term((String) text).getBytes(StandardCharsets.UTF_8);
  }
}
