package org.mnemex.client;

import java.io.IOException;
import java.net.http.HttpRequest;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.Map;
import java.util.UUID;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.JsonNode;

/**
 * Writes records of an index with a push source; see {@link MnemexClient#push(String)}. Whatever is
 * answered is kept.
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

  /**
   * Pushes the records of a file, in portions: if this is interrupted, those that the progress has
   * heard of are taken. If it takes more than a moment, it is a job of the service, which can be
   * cancelled.
   *
   * @param file lines of JSON, a list of objects if its name ends with {@code .json}, or a table if
   *     it ends with {@code .csv}
   * @param act replace, merge or delete
   * @param progress hears of refused lines, and of how many records are taken
   * @throws IllegalArgumentException if the file is not what its name says
   */
  public Pushed file(Path file, String act, PushProgress progress) throws IOException {
    Pushed total = new Pushed(0, 0, null);
    String path = "%s?act=%s&import=%s".formatted(records, Calls.encode(act), UUID.randomUUID());
    try (FilePortions portions = FilePortions.open(file, calls.json())) {
      for (FilePortions.Portion portion = portions.next();
          portion != null;
          portion = portions.next()) {
        total = push(path + "&more=true", portion, total, progress);
      }
      // Only now it is known that there is nothing more.
      calls.send(
          calls
              .request(path)
              .header("Content-Type", "application/x-ndjson")
              .POST(HttpRequest.BodyPublishers.noBody())
              .build());
    } catch (JacksonException e) {
      throw new IllegalArgumentException(ended(file, total, "JSON: " + e.getOriginalMessage()), e);
    } catch (CharacterCodingException e) {
      throw new IllegalArgumentException(ended(file, total, "text in UTF-8"), e);
    }
    return total;
  }

  private static String ended(Path file, Pushed total, String what) {
    return "%s is not %s; %,d records before that were taken".formatted(file, what, total.taken());
  }

  private Pushed push(
      String path, FilePortions.Portion portion, Pushed before, PushProgress progress) {
    HttpRequest request =
        calls
            .request(path)
            .header("Content-Type", portion.type())
            .POST(HttpRequest.BodyPublishers.ofString(portion.text()))
            .build();
    Pushed total = before;
    long taken = before.taken();
    String answers = new String(calls.send(request), StandardCharsets.UTF_8);
    for (String line : answers.lines().toList()) {
      JsonNode answer = calls.json().readTree(line);
      if (answer.has("taken")) {
        total = before.plus(calls.json().treeToValue(answer, Pushed.class));
      } else if (answer.hasNonNull("problem")) {
        long at = answer.get("line").asLong();
        progress.refused(at == 0 ? 0 : portion.lineOf().applyAsLong(at), problem(answer));
      } else {
        progress.taken(++taken);
      }
    }
    return total;
  }

  private static String problem(JsonNode answer) {
    return answer.get("problem").asString();
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
