package org.mnemex.service.admin;

import com.fasterxml.jackson.annotation.JsonProperty;
import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.AccessKey;
import org.mnemex.service.access.Keys;
import org.mnemex.service.access.Right;
import org.mnemex.service.access.Scope;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.search.Endpoints;
import org.mnemex.sync.definition.AuditPlan;
import org.springframework.http.CacheControl;
import org.springframework.http.ResponseEntity;
import org.springframework.security.web.util.matcher.IpAddressMatcher;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RestController;

/** Keys: who may do what. */
@Tag(name = "Access", description = "keys, sessions and the activity log")
@RestController
public class KeyController {
  private static final int MAX_LISTED = 100;
  private static final int MAX_PER_MINUTE = 1_000_000;

  private final Keys keys;
  private final Endpoints endpoints;
  private final Clock clock;

  public KeyController(Keys keys, Endpoints endpoints, Clock clock) {
    this.keys = keys;
    this.endpoints = endpoints;
    this.clock = clock;
  }

  /**
   * A key, without its secret.
   *
   * @param id short identifier, part of the key's text
   * @param name what people call it
   * @param right admin, read, write, search or node
   * @param state active, expired or revoked
   * @param indexes indexes that may be pushed to; {@code *} for all
   * @param endpoints endpoints that may be searched; {@code *} for all
   * @param filter a filter that every search must meet, or null
   * @param origins origins of pages that may use it; empty for any caller
   * @param networks networks that it may be used from; empty for all
   * @param perMinute the most calls in a minute; null for no limit
   * @param created when it was created, ISO 8601, UTC
   * @param expires when it stops working; null for never
   * @param lastUsed when it was last used, to the minute; null if never
   */
  public record KeyView(
      String id,
      String name,
      String right,
      String state,
      List<String> indexes,
      List<String> endpoints,
      @Nullable String filter,
      List<String> origins,
      List<String> networks,
      @Nullable Integer perMinute,
      String created,
      @Nullable String expires,
      @Nullable String lastUsed) {}

  /**
   * A key to create.
   *
   * @param name what people call it
   * @param right admin, read, write, search or node
   * @param indexes for write: indexes that may be pushed to; {@code *} for all
   * @param endpoints for search: endpoints that may be searched; {@code *} for all
   * @param filter for search: a filter that every search must meet
   * @param origins for search: origins of pages that may use it, such as {@code https://a.example}
   * @param networks networks that it may be used from, in CIDR notation
   * @param perMinute the most calls in a minute
   * @param expires when it stops working: a time in ISO 8601, or a duration such as {@code 30d}
   */
  public record KeyBody(
      String name,
      String right,
      @Nullable List<String> indexes,
      @Nullable List<String> endpoints,
      @Nullable String filter,
      @Nullable List<String> origins,
      @Nullable List<String> networks,
      @JsonProperty("per_minute") @Nullable Integer perMinute,
      @Nullable String expires) {}

  /**
   * A new key.
   *
   * @param key the key
   * @param secret the key's text, which is shown only now
   */
  public record KeyAnswer(KeyView key, String secret) {}

  /**
   * How to rotate a key.
   *
   * @param overlap how long the old key still works, such as {@code 1h}
   */
  public record RotateBody(@Nullable String overlap) {}

  @Operation(summary = "List all keys, oldest first")
  @GetMapping("/api/keys")
  public List<KeyView> list() {
    return keys.all().stream().map(this::view).toList();
  }

  @Operation(summary = "Create a key", description = "The secret is answered only now.")
  @PostMapping("/api/keys")
  public ResponseEntity<KeyAnswer> create(@RequestBody KeyBody body) {
    Right right = Right.of(String.valueOf(body.right()));
    if (right == null) {
      throw new ProblemException(
          ProblemType.BAD_ACCESS_KEY,
          "'%s' is not a right; there are %s"
              .formatted(
                  body.right(),
                  String.join(", ", Arrays.stream(Right.values()).map(Right::word).toList())));
    }
    return secret(
        keys.create(
            String.valueOf(body.name()), right, scope(body, right), expiry(body.expires())));
  }

  @Operation(summary = "Revoke a key", description = "At once, open streams and sessions included.")
  @DeleteMapping("/api/keys/{id}")
  public KeyView revoke(@PathVariable String id) {
    return view(keys.revoke(id));
  }

  @Operation(
      summary = "Replace a key",
      description =
          "A new key with the same right and limits. The old one works until the overlap is over,"
              + " an hour if none is given.")
  @PostMapping("/api/keys/{id}/rotate")
  public ResponseEntity<KeyAnswer> rotate(@PathVariable String id, @RequestBody RotateBody body) {
    return secret(keys.rotate(id, duration(body.overlap() == null ? "1h" : body.overlap())));
  }

  private ResponseEntity<KeyAnswer> secret(Keys.NewKey made) {
    return ResponseEntity.ok()
        .cacheControl(CacheControl.noStore())
        .body(new KeyAnswer(view(made.key()), made.secret()));
  }

  private KeyView view(AccessKey key) {
    Scope scope = key.scope();
    return new KeyView(
        key.id(),
        key.name(),
        key.right().word(),
        key.stateAt(clock.instant()),
        scope.indexes(),
        scope.endpoints(),
        scope.filter(),
        scope.origins(),
        scope.networks(),
        scope.perMinute(),
        key.created().toString(),
        key.expires() == null ? null : key.expires().toString(),
        key.lastUsed() == null ? null : key.lastUsed().toString());
  }

  private Scope scope(KeyBody body, Right right) {
    List<String> names = listed("endpoints", body.endpoints());
    List<String> indexes = listed("indexes", body.indexes());
    if (right == Right.SEARCH && names.isEmpty()) {
      throw bad("a key with the right 'search' names its endpoints; write '*' for all");
    }
    if (right == Right.WRITE && indexes.isEmpty()) {
      throw bad("a key with the right 'write' names its indexes; write '*' for all");
    }
    if (right != Right.SEARCH
        && (!names.isEmpty() || body.filter() != null || body.origins() != null)) {
      throw bad("'endpoints', 'filter' and 'origins' are for keys with the right 'search'");
    }
    if (right != Right.WRITE && !indexes.isEmpty()) {
      throw bad("'indexes' is for keys with the right 'write'");
    }
    if (body.filter() != null) {
      // A mistake shows now, not with the first search.
      names.forEach(name -> endpoints.checkFilter(name, body.filter()));
    }
    List<String> networks = listed("networks", body.networks());
    for (String network : networks) {
      try {
        new IpAddressMatcher(network);
      } catch (IllegalArgumentException e) {
        throw bad("'%s' is not a network like 10.0.0.0/8 or 2001:db8::/32".formatted(network));
      }
    }
    Integer perMinute = body.perMinute();
    if (perMinute != null && (perMinute < 1 || perMinute > MAX_PER_MINUTE)) {
      throw bad("'per_minute' is a number from 1 to %,d".formatted(MAX_PER_MINUTE));
    }
    return new Scope(
        indexes, names, body.filter(), listed("origins", body.origins()), networks, perMinute);
  }

  private static List<String> listed(String key, @Nullable List<String> values) {
    if (values == null) {
      return List.of();
    }
    if (values.contains(null) || values.size() > MAX_LISTED) {
      throw bad("'%s' is a list of at most %d texts".formatted(key, MAX_LISTED));
    }
    return values;
  }

  private @Nullable Instant expiry(@Nullable String text) {
    if (text == null) {
      return null;
    }
    try {
      return Instant.parse(text);
    } catch (DateTimeException e) {
      return clock.instant().plus(duration(text));
    }
  }

  private static Duration duration(String text) {
    try {
      return AuditPlan.time(text);
    } catch (IllegalArgumentException e) {
      throw bad(String.valueOf(e.getMessage()));
    }
  }

  private static ProblemException bad(String why) {
    return new ProblemException(ProblemType.BAD_ACCESS_KEY, why);
  }
}
