package org.mnemex.client;

import java.util.List;
import java.util.Map;
import tools.jackson.core.type.TypeReference;

/** What one source can be asked; made by {@link MnemexClient#source}. */
public final class SourceClient {
  private final Calls calls;
  private final String name;

  SourceClient(Calls calls, String name) {
    this.calls = calls;
    this.name = name;
  }

  /** Whether the source can be followed, and what it lacks. */
  public SourceCheck check() {
    return calls.get("/api/sources/" + Calls.encode(name) + "/check", new TypeReference<>() {});
  }

  /** Its tables. */
  public List<SourceTable> tables() {
    return calls.get("/api/sources/" + Calls.encode(name) + "/tables", new TypeReference<>() {});
  }

  /** Some rows of a table. */
  public List<Map<String, Object>> rows(String table, int limit) {
    return calls.get(
        "/api/sources/%s/tables/%s/rows?limit=%s"
            .formatted(Calls.encode(name), Calls.encode(table), limit),
        new TypeReference<>() {});
  }

  /** Definitions proposed over a table, as YAML. */
  public String draft(String table) {
    DraftAnswer answer =
        calls.get(
            "/api/sources/" + Calls.encode(name) + "/draft?table=" + Calls.encode(table),
            new TypeReference<>() {});
    return answer.yaml;
  }

  /**
   * A proposed index.
   *
   * @param yaml the proposed definitions, YAML
   */
  private record DraftAnswer(String yaml) {}

  /**
   * Prepares the database for the indexes of the source.
   *
   * @param run whether to run the statements instead of only listing them
   */
  public SourceStatements prepare(boolean run) {
    return prepare(run, Map.of());
  }

  /**
   * The same, also for indexes whose definitions are not applied yet.
   *
   * @param files YAML by the name that errors use
   */
  public SourceStatements prepare(boolean run, Map<String, String> files) {
    return calls.post(
        "/api/sources/" + Calls.encode(name) + "/prepare",
        Map.of("run", run, "files", Calls.files(files)),
        new TypeReference<>() {});
  }

  /**
   * Removes the source and everything Mnemex created in its database.
   *
   * @param run whether to run the statements instead of only listing them
   */
  public SourceStatements forget(boolean run) {
    return calls.post(
        "/api/sources/" + Calls.encode(name) + "/forget",
        Map.of("run", run),
        new TypeReference<>() {});
  }

  /**
   * Removes an orphaned reader from the source.
   *
   * @param reader its name, as {@link #check} tells it
   */
  public void dropReader(String reader) {
    calls.send(
        calls
            .request("/api/sources/" + Calls.encode(name) + "/readers/" + Calls.encodePath(reader))
            .DELETE()
            .build());
  }
}
