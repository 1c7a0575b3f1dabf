package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Clock;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.ActivityLog;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Routes;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.web.filter.OncePerRequestFilter;

/** Writes administrative acts to the activity log, with the status that they were answered with. */
class ActivityFilter extends OncePerRequestFilter {
  /** Refusals that anybody can cause; more in a minute are not worth a disk. */
  private static final int MAX_UNKNOWN = 60;

  private static final long MINUTE_MILLIS = 60_000;

  private final ActivityLog log;
  private final Callers callers;
  private final RouteAccess routes;
  private final Clock clock;
  private final AtomicInteger unknown = new AtomicInteger();
  private volatile long minute;

  ActivityFilter(ActivityLog log, Callers callers, RouteAccess routes, Clock clock) {
    this.log = log;
    this.callers = callers;
    this.routes = routes;
    this.clock = clock;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    RouteAccess.Match match = routes.of(request);
    Routes.Route route = match.route();
    try {
      chain.doFilter(request, response);
    } finally {
      int status = response.getStatus();
      boolean refused =
          (route == null ? request.getRequestURI() : route.path()).startsWith("/api/")
              && (status == HttpStatus.UNAUTHORIZED.value()
                  || status == HttpStatus.FORBIDDEN.value());
      if (refused || route != null && route.isAct()) {
        note(request, match, callers.named(), status);
      }
    }
  }

  private void note(
      HttpServletRequest request, RouteAccess.Match match, @Nullable Caller caller, int status) {
    if (caller == null && !mayNoteUnknown()) {
      return;
    }
    String said = request.getHeader(HttpHeaders.FROM);
    log.note(
        caller == null ? "none" : caller.keyId(),
        caller == null ? "" : caller.isLocal() && said != null ? said : caller.name(),
        Callers.address(request),
        request.getMethod() + " " + request.getRequestURI(),
        String.join("/", match.variables().values()),
        status);
  }

  private boolean mayNoteUnknown() {
    long now = clock.millis() / MINUTE_MILLIS;
    if (now != minute) {
      minute = now;
      unknown.set(0);
    }
    return unknown.incrementAndGet() <= MAX_UNKNOWN;
  }
}
