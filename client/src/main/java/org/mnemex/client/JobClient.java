package org.mnemex.client;

import java.util.List;
import java.util.Map;
import tools.jackson.core.type.TypeReference;

/** Calls about what takes long; made by {@link MnemexClient#jobs}. */
public final class JobClient {
  private final Calls calls;

  JobClient(Calls calls) {
    this.calls = calls;
  }

  /** The latest jobs, newest first. */
  public List<JobEntry> list(int limit) {
    return calls.get("/api/jobs?limit=" + limit, new TypeReference<>() {});
  }

  /** A job with its log and result. */
  public JobEntry one(long id) {
    return calls.get("/api/jobs/" + id, new TypeReference<>() {});
  }

  /** Begins to compact the live edition of an index. */
  public JobEntry compact(String index) {
    return calls.post(
        "/api/indexes/" + Calls.encode(index) + "/compact", Map.of(), new TypeReference<>() {});
  }

  /** Lets a job end at its next step. */
  public JobEntry cancel(long id) {
    return calls.post("/api/jobs/" + id + "/cancel", Map.of(), new TypeReference<>() {});
  }
}
