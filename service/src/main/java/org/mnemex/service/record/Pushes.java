package org.mnemex.service.record;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.query.FilterText;
import org.mnemex.engine.query.Query;
import org.mnemex.engine.request.SearchRequest;
import org.mnemex.engine.request.SearchResult;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.status.Indexes;
import org.mnemex.sync.definition.IndexDefinition;
import org.mnemex.sync.definition.RecordShape;
import org.mnemex.sync.edition.Edition;
import org.mnemex.sync.push.PushSource;
import org.mnemex.sync.source.Position;
import org.mnemex.sync.source.RecordKey;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/** Records that are pushed: replaced, changed in part, deleted. */
@Component
public class Pushes {
  private static final ObjectMapper JSON =
      JsonMapper.builder().enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS).build();
  private static final TypeReference<Map<String, Object>> CONTENT = new TypeReference<>() {};
  private static final int KEYS_PER_SEARCH = 1000;
  private static final int MAX_MERGED = 100_000;
  private static final int RECORDS_PER_WRITE = 500;
  private static final int MAX_RECORD_CHARACTERS = 4 << 20;

  private final Indexes indexes;

  public Pushes(Indexes indexes) {
    this.indexes = indexes;
  }

  /** What is done with a record. */
  public enum Act {
    /** The new record replaces it. */
    REPLACE,
    /** The sent members are merged into it (RFC 7396). */
    MERGE,
    DELETE
  }

  /** An index and the source of its pushed records. */
  public record Target(IndexDefinition index, PushSource source) {}

  /**
   * The push target of an index.
   *
   * @throws ProblemException 409 if they come from a database
   */
  public Target target(String index) {
    IndexDefinition definition = indexes.definition(index);
    if (indexes.source(index) instanceof PushSource source) {
      return new Target(definition, source);
    }
    throw new ProblemException(
        ProblemType.DATABASE_IS_THE_TRUTH,
        "the records of index '%s' come from source '%s', a database; change them there"
            .formatted(index, definition.source()));
  }

  /** One record to write. */
  public record Push(String key, Act act, Map<String, Object> content) {}

  /**
   * Reads a record.
   *
   * @param json an object
   * @param keyText its key, if it is known from elsewhere
   * @throws IllegalArgumentException with a sentence, if it is none
   */
  public static Push read(IndexDefinition index, String json, @Nullable String keyText, Act act) {
    if (json.length() > MAX_RECORD_CHARACTERS) {
      throw new IllegalArgumentException(
          "a record has up to %,d characters".formatted(MAX_RECORD_CHARACTERS));
    }
    Map<String, Object> content;
    try {
      content = new LinkedHashMap<>(JSON.readValue(json, CONTENT));
    } catch (JacksonException | NullPointerException e) {
      throw new IllegalArgumentException(whyNoObject(json), e);
    }
    return of(index, content, keyText, act);
  }

  private static String whyNoObject(String json) {
    try {
      String kind = JSON.readTree(json).getNodeType().name().toLowerCase(Locale.ROOT);
      return "this is not a JSON object, but of the type " + kind;
    } catch (JacksonException e) {
      return "this is not a JSON object: " + e.getOriginalMessage();
    }
  }

  /** A record of some content. */
  public static Push of(
      IndexDefinition index, Map<String, Object> content, @Nullable String keyText, Act act) {
    List<String> columns = index.shape().key();
    List<Object> given =
        keyText == null ? List.of() : RecordKey.parse(keyText, columns.size()).values();
    if (keyText != null && given.size() != columns.size()) {
      throw new IllegalArgumentException(
          "key '%s' has %d parts; a key of index '%s' is %s"
              .formatted(keyText, given.size(), index.name(), String.join("/", columns)));
    }
    List<Object> key = new ArrayList<>();
    for (int i = 0; i < columns.size(); i++) {
      String column = columns.get(i);
      Object inside = content.get(column);
      if (inside == null && given.isEmpty()) {
        throw new IllegalArgumentException("its key '" + column + "' is missing");
      }
      if (inside instanceof Map || inside instanceof List) {
        throw new IllegalArgumentException("its key '" + column + "' is not a single value");
      }
      if (inside != null && !given.isEmpty() && !inside.toString().equals(given.get(i))) {
        throw new IllegalArgumentException(
            "its key '%s' is '%s', but it was sent to '%s'"
                .formatted(column, inside, given.get(i)));
      }
      if (inside == null) {
        content.put(column, given.get(i));
      }
      key.add(inside == null ? given.get(i) : inside);
    }
    dropNever(index.shape(), content);
    return new Push(new RecordKey(key).text(), act, content);
  }

  /** Columns under never are not even stored. */
  private static void dropNever(RecordShape shape, Map<String, Object> content) {
    for (String never : shape.never()) {
      RecordShape.ColumnRef ref = RecordShape.ColumnRef.of(never);
      if (ref.join() == null) {
        content.remove(ref.column());
      } else {
        Object related = content.get(ref.join());
        drop(related, ref.column());
        if (related instanceof List<?> rows) {
          rows.forEach(row -> drop(row, ref.column()));
        }
      }
    }
  }

  private static void drop(@Nullable Object row, String column) {
    if (row instanceof Map<?, ?> map) {
      map.remove(column);
    }
  }

  /**
   * Writes records; on disk when this returns.
   *
   * @param pushes of different keys
   */
  public Position write(Target target, Collection<Push> pushes) {
    Map<String, Push> byKey = new LinkedHashMap<>();
    pushes.forEach(push -> byKey.put(push.key(), push));
    return target
        .source()
        .push(byKey.keySet(), (key, before) -> after(target.index(), byKey.get(key), before));
  }

  private static @Nullable String after(
      IndexDefinition index, @Nullable Push push, @Nullable String before) {
    if (push == null || push.act() == Act.DELETE) {
      return null;
    }
    if (push.act() == Act.REPLACE) {
      return JSON.writeValueAsString(push.content());
    }
    Map<String, Object> merged =
        before == null ? new LinkedHashMap<>() : JSON.readValue(before, CONTENT);
    Object result = merge(merged, push.content());
    @SuppressWarnings("unchecked")
    Map<String, Object> content = (Map<String, Object>) result;
    dropNever(index.shape(), content);
    return JSON.writeValueAsString(content);
  }

  /** RFC 7396, section 2. */
  private static @Nullable Object merge(@Nullable Object target, @Nullable Object patch) {
    if (!(patch instanceof Map<?, ?> changes)) {
      return patch;
    }
    Map<Object, @Nullable Object> result = new LinkedHashMap<>();
    if (target instanceof Map<?, ?> map) {
      result.putAll(map);
    }
    changes.forEach(
        (name, value) -> {
          if (value == null) {
            result.remove(name);
          } else {
            result.put(name, merge(result.get(name), value));
          }
        });
    return result;
  }

  /**
   * Merges a change into all records that match a filter.
   *
   * @param onlyCount whether to change nothing
   * @return how many records match
   */
  public int mergeWhere(String index, String where, Map<String, Object> patch, boolean onlyCount) {
    Target target = target(index);
    for (String column : target.index().shape().key()) {
      if (patch.containsKey(column)) {
        throw new ProblemException(
            ProblemType.KEY_CANNOT_CHANGE, "'" + column + "' is the key, which cannot be changed");
      }
    }
    Edition live = indexes.live(index);
    Set<String> keys = keys(live, FilterText.parse(where, target.index().schema()));
    if (!onlyCount) {
      List<String> all = List.copyOf(keys);
      for (int from = 0; from < all.size(); from += RECORDS_PER_WRITE) {
        write(
            target,
            all.subList(from, Math.min(all.size(), from + RECORDS_PER_WRITE)).stream()
                .map(key -> new Push(key, Act.MERGE, patch))
                .toList());
      }
    }
    return keys.size();
  }

  private static Set<String> keys(Edition edition, Query filter) {
    Set<String> keys = new LinkedHashSet<>();
    SearchRequest.Cursor after = null;
    while (true) {
      SearchResult found =
          edition
              .folder()
              .search(
                  new SearchRequest(
                          new Query.Everything(),
                          filter,
                          null,
                          0,
                          KEYS_PER_SEARCH,
                          List.of(),
                          Set.of(),
                          List.of())
                      .after(after));
      found.hits().forEach(hit -> keys.add(hit.key()));
      if (keys.size() > MAX_MERGED) {
        throw new ProblemException(
            ProblemType.TOO_MANY_RECORDS,
            "the filter matches more than %,d records; change them in several steps"
                .formatted(MAX_MERGED));
      }
      if (found.hits().size() < KEYS_PER_SEARCH) {
        return keys;
      }
      after = found.hits().getLast().cursor();
    }
  }
}
