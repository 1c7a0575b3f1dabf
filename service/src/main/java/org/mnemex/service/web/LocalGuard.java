package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;
import org.springframework.web.cors.CorsConfiguration;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Protects a service without keys, which only listens to this machine: it answers only under a
 * local name (against DNS rebinding), and accepts changes only from its own pages and from
 * programs.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 20)
class LocalGuard extends OncePerRequestFilter {
  private static final Set<String> LOCAL_NAMES = Set.of("127.0.0.1", "localhost", "[::1]");
  private static final Set<String> READING = Set.of("GET", "HEAD", "OPTIONS");

  /** What browsers say of requests from our own pages, or of what a person typed. */
  private static final Set<String> OWN_SITES = Set.of("same-origin", "none");

  private final boolean withKeys;
  private final EndpointOrigins origins;

  LocalGuard(MnemexSettings settings, EndpointOrigins origins) {
    this.withKeys = settings.keys();
    this.origins = origins;
  }

  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    return withKeys;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    if (!LOCAL_NAMES.contains(hostName(request.getHeader(HttpHeaders.HOST)))) {
      refuse(response, "this service answers only under the name 127.0.0.1 or localhost");
      return;
    }
    String origin = request.getHeader(HttpHeaders.ORIGIN);
    String site = request.getHeader("Sec-Fetch-Site");
    if (!READING.contains(request.getMethod())
        && !searchesFor(origin, request)
        && (origin != null && !isOwn(origin, request)
            || site != null && !OWN_SITES.contains(site))) {
      refuse(
          response,
          "changes are not taken from pages of " + (origin == null ? "another site" : origin));
      return;
    }
    chain.doFilter(request, response);
  }

  /** Whether this is a search by a page that the endpoint names; that changes nothing. */
  private boolean searchesFor(@Nullable String origin, HttpServletRequest request) {
    CorsConfiguration allowed = origin == null ? null : origins.getCorsConfiguration(request);
    return allowed != null && allowed.checkOrigin(origin) != null;
  }

  private static String hostName(@Nullable String host) {
    if (host == null) {
      return "";
    }
    int colon = host.lastIndexOf(':');
    return colon > host.lastIndexOf(']') ? host.substring(0, colon) : host;
  }

  /** Another port of this machine is another site. */
  private static boolean isOwn(String origin, HttpServletRequest request) {
    try {
      URI page = URI.create(origin);
      return page.getHost() != null
          && LOCAL_NAMES.contains(page.getHost())
          && page.getPort() == request.getServerPort();
    } catch (IllegalArgumentException e) {
      return false;
    }
  }

  private static void refuse(HttpServletResponse response, String why) throws IOException {
    AccessConfiguration.send(response, Problems.problem(ProblemType.REFUSED, why, null));
  }
}
