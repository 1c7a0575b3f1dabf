package org.mnemex.client;

import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * One record from the database to its tokens.
 *
 * @param agrees whether database and index say the same; null if the database cannot be asked
 * @param quarantine why it is not indexed, if it is in quarantine
 */
public record TracedRecord(
    String key,
    @Nullable Boolean agrees,
    @Nullable Content database,
    @Nullable Content stored,
    @Nullable Map<String, List<Object>> fields,
    @Nullable Map<String, List<String>> tokens,
    @Nullable String quarantine,
    @Nullable String problem,
    List<Change> changes) {
  /**
   * What a record says.
   *
   * @param columns columns of the root by name, and by the names of joins their rows
   * @param computed results of SQL expressions, by field
   */
  public record Content(Map<String, Object> columns, Map<String, Object> computed) {}
}
