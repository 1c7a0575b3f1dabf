package org.mnemex.client;

import java.io.InputStream;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.type.TypeReference;

/** Calls about keys and the activity log; made by {@link MnemexClient#access}. */
public final class AccessClient {
  private final Calls calls;

  AccessClient(Calls calls) {
    this.calls = calls;
  }

  /** All keys, oldest first. */
  public List<KeyEntry> keys() {
    return calls.get("/api/keys", new TypeReference<>() {});
  }

  /** Creates a key. */
  public NewKey create(KeyRequest key) {
    return calls.post("/api/keys", key, new TypeReference<>() {});
  }

  /** Revokes a key at once. */
  public KeyEntry revoke(String id) {
    return calls.send(
        calls.request("/api/keys/" + Calls.encode(id)).DELETE().build(), new TypeReference<>() {});
  }

  /**
   * Replaces a key.
   *
   * @param overlap how long the old key still works, such as {@code 1h}
   */
  public NewKey rotate(String id, String overlap) {
    return calls.post(
        "/api/keys/" + Calls.encode(id) + "/rotate",
        Map.of("overlap", overlap),
        new TypeReference<>() {});
  }

  /**
   * Administrative acts, newest first.
   *
   * @param before number of an act to continue after; null for the newest
   * @param key only acts with this key; empty for all
   * @param refused only acts that were refused or failed
   */
  public List<ActivityEntry> activity(
      @Nullable Long before, String key, boolean refused, int limit) {
    return calls.get(
        "/api/activity?key_id=%s&refused=%s&limit=%s%s"
            .formatted(
                Calls.encode(key), refused, limit, before == null ? "" : "&before=" + before),
        new TypeReference<>() {});
  }

  /**
   * All administrative acts that the log still has, newest first, as NDJSON. To be closed.
   *
   * @param key only acts with this key; empty for all
   * @param refused only acts that were refused or failed
   */
  public InputStream exportActivity(String key, boolean refused) {
    return calls.stream(
        calls
            .endless(
                "/api/activity/export?key_id=%s&refused=%s".formatted(Calls.encode(key), refused))
            .GET()
            .build());
  }
}
