package org.mnemex.client;

import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.Set;
import java.util.concurrent.ThreadLocalRandom;

/**
 * When a call is tried again: a service that is busy says so before it has done anything, and when
 * it would be worth another try.
 */
final class Retries {
  private static final Set<Integer> BUSY = Set.of(429, 503);
  private static final long FIRST_PAUSE_MILLIS = 100;
  private static final int MAX_DOUBLINGS = 10;

  private final int times;
  private final Duration longestWait;

  Retries(int times, Duration longestWait) {
    this.times = times;
    this.longestWait = longestWait;
  }

  /**
   * The pause before another try, in milliseconds; -1 for none.
   *
   * @param tried how often it was tried again so far
   */
  long pauseMillis(HttpRequest request, HttpResponse<?> refusal, int tried) {
    if (tried >= times || !BUSY.contains(refusal.statusCode()) || !isHarmless(request)) {
      return -1;
    }
    long wanted =
        refusal
            .headers()
            .firstValue("Retry-After")
            .filter(text -> text.matches("\\d{1,6}"))
            .map(seconds -> 1_000 * Long.parseLong(seconds))
            .orElse(FIRST_PAUSE_MILLIS << Math.min(tried, MAX_DOUBLINGS));
    if (wanted > longestWait.toMillis()) {
      return -1;
    }
    // Callers that were refused together do not come back together.
    return wanted == 0 ? 0 : wanted + ThreadLocalRandom.current().nextLong(wanted / 4 + 1);
  }

  /** Whether the call only reads. */
  private static boolean isHarmless(HttpRequest request) {
    return request.method().equals("GET") || request.uri().getPath().startsWith("/search");
  }
}
