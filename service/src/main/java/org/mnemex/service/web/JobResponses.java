package org.mnemex.service.web;

import java.net.URI;
import java.util.Arrays;
import org.jspecify.annotations.Nullable;
import org.springframework.http.ResponseEntity;

/** Answers to callers who do not want to wait for what takes long (RFC 7240, section 4.1). */
public final class JobResponses {
  private static final String ASYNC = "respond-async";

  private JobResponses() {}

  /**
   * Whether the caller wants a job instead of the answer.
   *
   * @param prefer the header {@code Prefer}; null if there is none
   */
  public static boolean wanted(@Nullable String prefer) {
    return prefer != null
        && Arrays.stream(prefer.split(",")).anyMatch(one -> one.strip().equalsIgnoreCase(ASYNC));
  }

  /** 202 with the address of the job, and no body. */
  public static <T> ResponseEntity<T> accepted(long job) {
    return ResponseEntity.accepted()
        .location(URI.create("/api/jobs/" + job))
        .header("Preference-Applied", ASYNC)
        .build();
  }
}
