package org.mnemex.spring;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.Function;
import org.mnemex.client.SearchAnswer;
import org.springframework.jdbc.core.simple.JdbcClient;

/**
 * Rows of a database in the order of search results. A search gives keys; the rows come from where
 * the application keeps them, in one query, in the order of the keys. A row that is gone since is
 * skipped.
 *
 * <pre>{@code
 * RowsByKey<String, Plant> plants = RowsByKey.query(
 *     jdbc, "SELECT * FROM plant WHERE number IN (:keys)", Plant.class, Plant::number);
 * List<Plant> page = plants.of(client.search("plant-search", SearchQuery.words("fern")));
 * }</pre>
 *
 * @param <K> type of a key in the database
 * @param <R> type of a row
 */
public final class RowsByKey<K, R> {
  /** Databases have limits on the values of a list. */
  private static final int KEYS_A_QUERY = 500;

  private final Function<String, K> key;
  private final Function<? super List<K>, ? extends Iterable<? extends R>> rows;
  private final Function<? super R, K> keyOf;

  /**
   * @param key a key of the index as one of the database, such as {@code Long::valueOf}
   * @param rows the rows of some keys in any order, such as {@code repository::findAllById}
   * @param keyOf the key of a row
   */
  public RowsByKey(
      Function<String, K> key,
      Function<? super List<K>, ? extends Iterable<? extends R>> rows,
      Function<? super R, K> keyOf) {
    this.key = key;
    this.rows = rows;
    this.keyOf = keyOf;
  }

  /**
   * Rows of a query.
   *
   * @param sql with {@code :keys} in the place of the keys, as in {@code WHERE number IN (:keys)}
   * @param type class of a row, as {@link JdbcClient} maps it
   * @param keyOf the key of a row
   */
  public static <R> RowsByKey<String, R> query(
      JdbcClient jdbc, String sql, Class<R> type, Function<? super R, String> keyOf) {
    return query(jdbc, sql, type, Function.identity(), keyOf);
  }

  /**
   * The same with keys that are no texts.
   *
   * @param key a key of the index as one of the database, such as {@code Long::valueOf}
   */
  public static <K, R> RowsByKey<K, R> query(
      JdbcClient jdbc,
      String sql,
      Class<R> type,
      Function<String, K> key,
      Function<? super R, K> keyOf) {
    return new RowsByKey<>(
        key, keys -> jdbc.sql(sql).param("keys", keys).query(type).list(), keyOf);
  }

  /** The rows of the results on a page. */
  public List<R> of(SearchAnswer answer) {
    return of(answer.results().stream().map(SearchAnswer.Result::key).toList());
  }

  /** The rows of some keys, in their order. */
  public List<R> of(Collection<String> keys) {
    List<K> wanted = keys.stream().map(key).toList();
    Map<K, R> found = new HashMap<>();
    for (int from = 0; from < wanted.size(); from += KEYS_A_QUERY) {
      List<K> some = wanted.subList(from, Math.min(wanted.size(), from + KEYS_A_QUERY));
      for (R row : rows.apply(new ArrayList<>(some))) {
        found.put(keyOf.apply(row), row);
      }
    }
    return wanted.stream().map(found::get).filter(Objects::nonNull).toList();
  }
}
