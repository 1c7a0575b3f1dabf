package org.mnemex.service.web;

import io.github.bucket4j.Bucket;
import io.github.bucket4j.ConsumptionProbe;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Scope;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.mnemex.service.problem.ProblemType;
import org.springframework.http.HttpHeaders;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Limits the calls of a key and of an endpoint to a number in a minute. Answers carry the fields of
 * the IETF draft "RateLimit header fields for HTTP" for the limit that is nearest.
 */
class CallRates extends OncePerRequestFilter {
  private static final long MINUTE_SECONDS = 60;

  /** By what is limited and its limit, so that a changed limit begins anew. */
  private final Map<Limit, Bucket> buckets = new ConcurrentHashMap<>();

  private final Callers callers;
  private final RouteAccess routes;
  private final Installation installation;

  private record Limit(String kind, String name, int perMinute) {}

  CallRates(Callers callers, RouteAccess routes, Installation installation) {
    this.callers = callers;
    this.routes = routes;
    this.installation = installation;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    Caller caller = callers.current();
    if (caller != null) {
      for (Scope scope : caller.scopes()) {
        if (scope.perMinute() != null
            && !pass(new Limit("key", caller.keyId(), scope.perMinute()), response)) {
          return;
        }
      }
    }
    for (String name : routes.of(request).searched(request)) {
      Limit endpoint = endpoint(name);
      if (endpoint != null && !pass(endpoint, response)) {
        return;
      }
    }
    chain.doFilter(request, response);
  }

  private @Nullable Limit endpoint(String name) {
    RunningEndpoint running = installation.running().endpoints().get(name);
    int perMinute = running == null ? 0 : running.endpoint().newest().perMinute();
    return perMinute == 0 ? null : new Limit("endpoint", name, perMinute);
  }

  /** Takes one call from a limit; answers the request if there is none left. */
  private boolean pass(Limit limit, HttpServletResponse response) throws IOException {
    Bucket bucket =
        buckets.computeIfAbsent(
            limit,
            key ->
                Bucket.builder()
                    .addLimit(
                        rate ->
                            rate.capacity(limit.perMinute())
                                .refillGreedy(limit.perMinute(), Duration.ofMinutes(1)))
                    .build());
    ConsumptionProbe probe = bucket.tryConsumeAndReturnRemaining(1);
    long full = seconds(probe.getNanosToWaitForReset());
    response.setHeader(
        "RateLimit-Policy",
        "\"%s\";q=%d;w=%d".formatted(limit.kind(), limit.perMinute(), MINUTE_SECONDS));
    response.setHeader(
        "RateLimit", "\"%s\";r=%d;t=%d".formatted(limit.kind(), probe.getRemainingTokens(), full));
    if (probe.isConsumed()) {
      return true;
    }
    response.setHeader(
        HttpHeaders.RETRY_AFTER, Long.toString(seconds(probe.getNanosToWaitForRefill())));
    AccessConfiguration.send(
        response,
        Problems.problem(
            ProblemType.TOO_MANY_CALLS,
            "this %s may be called %,d times in a minute"
                .formatted(limit.kind(), limit.perMinute()),
            null));
    return false;
  }

  /** Rounded up: a caller that comes back too early is refused again. */
  private static long seconds(long nanos) {
    return TimeUnit.NANOSECONDS.toSeconds(nanos + TimeUnit.SECONDS.toNanos(1) - 1);
  }
}
