package org.mnemex.service.access;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * Who makes a request.
 *
 * @param keyId the key that it calls with; {@code local} without keys, {@code token} with a token
 * @param name what the activity log and definitions say
 * @param right what it may do
 * @param scopes limits of the key and of the token, all of which apply
 * @param until when it stops being valid; null for never
 */
public record Caller(
    String keyId, String name, Right right, List<Scope> scopes, @Nullable Instant until) {
  /** The caller of a service without keys, which only listens to this machine. */
  public static final Caller LOCAL =
      new Caller("local", "local", Right.ADMIN, List.of(Scope.ALL), null);

  /** The caller with a key. */
  public static Caller of(AccessKey key) {
    return new Caller(key.id(), key.name(), key.right(), List.of(key.scope()), key.expires());
  }

  /** Whether the service has no keys, so that a name is only what the caller says. */
  public boolean isLocal() {
    return keyId.equals(LOCAL.keyId());
  }

  /** Whether it may search an endpoint. No key that only searches covers what is being tried. */
  public boolean maySearch(String endpoint) {
    return right != Right.SEARCH || scopes.stream().allMatch(s -> s.coversEndpoint(endpoint));
  }

  /** Whether it may push to an index. */
  public boolean mayPush(String index) {
    return right == Right.ADMIN || scopes.stream().allMatch(s -> s.coversIndex(index));
  }

  /** The filters that each of its searches must meet. */
  public List<String> filters() {
    List<String> filters = new ArrayList<>();
    for (Scope scope : scopes) {
      if (scope.filter() != null) {
        filters.add(scope.filter());
      }
    }
    return filters;
  }
}
