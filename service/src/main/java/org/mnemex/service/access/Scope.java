package org.mnemex.service.access;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.endpoint.TrialName;

/**
 * The limits of a key or token within its right.
 *
 * @param indexes indexes that may be pushed to; {@code *} for all
 * @param endpoints endpoints that may be searched; {@code *} for all
 * @param filter a filter that every search must meet, or null
 * @param origins origins of pages that may use it; empty for any caller
 * @param networks networks that it may be used from, in CIDR notation (RFC 4632); empty for all
 * @param perMinute the most calls in a minute; null for no limit
 */
public record Scope(
    List<String> indexes,
    List<String> endpoints,
    @Nullable String filter,
    List<String> origins,
    List<String> networks,
    @Nullable Integer perMinute) {

  /** No limits. */
  public static final Scope ALL =
      new Scope(List.of("*"), List.of("*"), null, List.of(), List.of(), null);

  /** Whether it covers an endpoint. {@code *} does not stand for definitions that are tried. */
  public boolean coversEndpoint(String endpoint) {
    boolean all = endpoints.contains("*") && !TrialName.is(endpoint);
    return all || endpoints.contains(endpoint);
  }

  /** Whether it covers pushes to an index. */
  public boolean coversIndex(String index) {
    return indexes.contains("*") || indexes.contains(index);
  }
}
