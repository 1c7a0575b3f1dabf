package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.regex.Pattern;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/** Limits bodies, and writes security headers to every answer. */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 10)
class RequestLimits extends OncePerRequestFilter {
  private static final Pattern RECORDS = Pattern.compile("/api/indexes/[^/]+/records");
  private static final long MAX_BODY_BYTES = 4L << 20;
  private static final String POLICY =
      "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: https:;"
          + " frame-ancestors 'none'; base-uri 'none'; form-action 'self'";

  /** A year, as browsers' lists of such sites ask for. */
  private static final String ONLY_TLS = "max-age=31536000";

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("Referrer-Policy", "no-referrer");
    response.setHeader("Content-Security-Policy", POLICY);
    if (request.isSecure()) {
      response.setHeader("Strict-Transport-Security", ONLY_TLS);
    }
    if (isStream(request)) {
      chain.doFilter(request, response);
      return;
    }
    if (request.getContentLengthLong() > MAX_BODY_BYTES) {
      AccessConfiguration.send(
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
}
