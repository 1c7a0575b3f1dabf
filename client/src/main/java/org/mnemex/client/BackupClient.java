package org.mnemex.client;

import java.io.InputStream;
import java.util.Map;
import tools.jackson.core.type.TypeReference;

/** Calls about backups; made by {@link MnemexClient#backups}. */
public final class BackupClient {
  private static final String PATH = "/api/backups";

  private final Calls calls;

  BackupClient(Calls calls) {
    this.calls = calls;
  }

  /** Begins to freeze the state of this moment; the result of the job names the backup. */
  public JobEntry begin() {
    return calls.post(PATH, Map.of(), new TypeReference<>() {});
  }

  /** What a backup consists of. */
  public BackupContent content(String id) {
    return calls.get(PATH + "/" + Calls.encode(id), new TypeReference<>() {});
  }

  /** A file of a backup, to be closed. */
  public InputStream file(String id, String path) {
    return calls.stream(
        calls
            .endless(PATH + "/" + Calls.encode(id) + "/files/" + Calls.encodePath(path))
            .header("Accept", "application/octet-stream, application/problem+json")
            .build());
  }

  /** Discards a backup that has been fetched. */
  public void discard(String id) {
    calls.send(calls.request(PATH + "/" + Calls.encode(id)).DELETE().build());
  }
}
