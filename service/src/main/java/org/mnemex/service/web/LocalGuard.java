package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.InetAddress;
import java.net.URI;
import java.util.Set;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.problem.ProblemType;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpHeaders;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Protects a service without keys: it listens on the loopback address only, answers only under a
 * local name (against DNS rebinding), and accepts changes only from its own pages and from
 * programs. Limits bodies and sets security headers.
 */
@Component
public class LocalGuard extends OncePerRequestFilter {
  private static final Set<String> LOCAL_NAMES = Set.of("127.0.0.1", "localhost", "[::1]");
  private static final Pattern RECORDS = Pattern.compile("/api/indexes/[^/]+/records");
  private static final long MAX_BODY_BYTES = 4L << 20;
  private static final String POLICY =
      "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: https:;"
          + " frame-ancestors 'none'; base-uri 'none'; form-action 'self'";

  public LocalGuard(@Value("${server.address}") InetAddress address) {
    if (!address.isLoopbackAddress()) {
      throw new IllegalStateException(
          "server.address is "
              + address.getHostAddress()
              + ", but a service without keys may only listen on 127.0.0.1; put a proxy that"
              + " checks who calls in front of it");
    }
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("Referrer-Policy", "no-referrer");
    response.setHeader("Content-Security-Policy", POLICY);
    if (!LOCAL_NAMES.contains(hostName(request.getHeader(HttpHeaders.HOST)))) {
      refuse(response, "this service answers only under the name 127.0.0.1 or localhost");
      return;
    }
    String origin = request.getHeader(HttpHeaders.ORIGIN);
    boolean reading = Set.of("GET", "HEAD", "OPTIONS").contains(request.getMethod());
    if (!reading && origin != null && !isLocal(origin)) {
      refuse(response, "changes are not taken from pages of " + origin);
      return;
    }
    if (isStream(request)) {
      chain.doFilter(request, response);
      return;
    }
    if (request.getContentLengthLong() > MAX_BODY_BYTES) {
      send(
          response,
          Problems.problem(
              ProblemType.BODY_TOO_LARGE,
              new BodyTooLargeException(MAX_BODY_BYTES).getMessage(),
              null));
      return;
    }
    chain.doFilter(new LimitedBody(request, MAX_BODY_BYTES), response);
  }

  /** Pushed records are streamed, so lines are limited instead of the body. */
  private static boolean isStream(HttpServletRequest request) {
    return request.getMethod().equals("POST") && RECORDS.matcher(request.getRequestURI()).matches();
  }

  private static String hostName(@Nullable String host) {
    if (host == null) {
      return "";
    }
    int colon = host.lastIndexOf(':');
    return colon > host.lastIndexOf(']') ? host.substring(0, colon) : host;
  }

  private static boolean isLocal(String origin) {
    try {
      String host = URI.create(origin).getHost();
      return host != null && LOCAL_NAMES.contains(host);
    } catch (IllegalArgumentException e) {
      return false;
    }
  }

  private static void refuse(HttpServletResponse response, String why) throws IOException {
    send(response, Problems.problem(ProblemType.REFUSED, why, null));
  }

  private static void send(HttpServletResponse response, ProblemDetail problem) throws IOException {
    response.setStatus(problem.getStatus());
    response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
    response.getWriter().write(Problems.json(problem));
  }
}
