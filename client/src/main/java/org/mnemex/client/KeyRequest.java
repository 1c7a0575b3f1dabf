package org.mnemex.client;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A key to create.
 *
 * @param name what people call it
 * @param right admin, read, write, search or node
 * @param indexes for write: indexes that may be pushed to; {@code *} for all
 * @param endpoints for search: endpoints that may be searched; {@code *} for all
 * @param filter for search: a filter that every search must meet
 * @param origins for search: origins of pages that may use it
 * @param networks networks that it may be used from, in CIDR notation
 * @param perMinute the most calls in a minute
 * @param expires when it stops working: a time in ISO 8601, or a duration such as {@code 30d}
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record KeyRequest(
    String name,
    String right,
    @Nullable List<String> indexes,
    @Nullable List<String> endpoints,
    @Nullable String filter,
    @Nullable List<String> origins,
    @Nullable List<String> networks,
    @JsonProperty("per_minute") @Nullable Integer perMinute,
    @Nullable String expires) {

  /** A key without limits. */
  public static KeyRequest of(String name, String right) {
    return new KeyRequest(name, right, null, null, null, null, null, null, null);
  }

  /** A key that searches some endpoints. */
  public static KeyRequest search(String name, List<String> endpoints, @Nullable String filter) {
    return new KeyRequest(name, "search", null, endpoints, filter, null, null, null, null);
  }

  /** A key that pushes to some indexes. */
  public static KeyRequest write(String name, List<String> indexes) {
    return new KeyRequest(name, "write", indexes, null, null, null, null, null, null);
  }
}
