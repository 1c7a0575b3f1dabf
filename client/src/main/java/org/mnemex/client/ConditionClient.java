package org.mnemex.client;

import java.util.List;
import java.util.Map;
import tools.jackson.core.type.TypeReference;

/** Calls about what somebody should know of; made by {@link MnemexClient#conditions}. */
public final class ConditionClient {
  private final Calls calls;

  ConditionClient(Calls calls) {
    this.calls = calls;
  }

  /** What holds now, what has ended, and who is told. */
  public ConditionsTold list() {
    return calls.get("/api/conditions", new TypeReference<>() {});
  }

  /** Sends a test message over every channel; what became of each. */
  public List<ConditionsTold.Tried> test() {
    return calls.post("/api/conditions/test", Map.of(), new TypeReference<>() {});
  }
}
