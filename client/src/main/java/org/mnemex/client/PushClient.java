package org.mnemex.client;

import java.net.http.HttpRequest;
import java.util.Map;
import tools.jackson.core.type.TypeReference;

/**
 * Writes single records of an index with a push source; see {@link MnemexClient#push(String)}.
 * Whatever is answered is kept.
 *
 * <p>A record is an object that Jackson writes: a map, or a record of Java whose component {@code
 * latinName} is the field {@code latin_name}.
 */
public final class PushClient {
  private final Calls calls;
  private final String records;

  PushClient(Calls calls, String index) {
    this.calls = calls;
    this.records = "/api/indexes/" + Calls.encode(index) + "/records";
  }

  /**
   * What was written.
   *
   * @param key key of the record
   * @param position pass it to {@link SearchQuery#trueFor} to find the record in its new state
   */
  public record Written(String key, String position) {}

  /**
   * How many records were changed.
   *
   * @param records records that match the filter
   * @param changed whether they were changed, or only counted
   */
  public record Changed(long records, boolean changed) {}

  /** Stores a record in the place of what was there: attributes that are missing are gone. */
  public Written replace(String key, Object record) {
    return write(key, "PUT", record);
  }

  /** Changes the attributes that are given, and leaves the others; null removes one. */
  public Written merge(String key, Object change) {
    return write(key, "PATCH", change);
  }

  /** Removes a record, if it is there. */
  public Written delete(String key) {
    return calls.send(
        calls.request(records + "/" + Calls.encodePath(key)).DELETE().build(),
        new TypeReference<>() {});
  }

  /**
   * Changes attributes of all records that match a filter.
   *
   * @param countOnly whether they are only counted
   */
  public Changed mergeWhere(String filter, Map<String, Object> change, boolean countOnly) {
    String path = records + "?where=" + Calls.encode(filter) + "&count_only=" + countOnly;
    return calls.send(body(path, "PATCH", change), new TypeReference<>() {});
  }

  private Written write(String key, String method, Object record) {
    return calls.send(
        body(records + "/" + Calls.encodePath(key), method, record), new TypeReference<>() {});
  }

  private HttpRequest body(String path, String method, Object record) {
    return calls
        .request(path)
        .header("Content-Type", "application/json")
        .method(method, HttpRequest.BodyPublishers.ofByteArray(calls.recordAsJson(record)))
        .build();
  }
}
