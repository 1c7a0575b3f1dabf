package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Duration;
import java.util.regex.Pattern;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/** Limits the size and time of bodies, and writes security headers to every answer. */
@Component
@Order(RequestLimits.ORDER)
class RequestLimits extends OncePerRequestFilter {
  /** After the filter that counts calls, whatever becomes of them. */
  static final int ORDER = Ordered.HIGHEST_PRECEDENCE + 10;

  private static final Pattern RECORDS = Pattern.compile("/api/indexes/[^/]+/records");
  private static final long MAX_BODY_BYTES = 4L << 20;
  private static final long MAX_DRAINED_BYTES = 2 * MAX_BODY_BYTES;
  private static final Duration MAX_DRAINED = Duration.ofSeconds(5);

  private static final String POLICY =
      "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: https:;"
          + " frame-ancestors 'none'; base-uri 'none'; form-action 'self'";

  /** A year, as browsers' lists of such sites ask for. */
  private static final String ONLY_TLS = "max-age=31536000";

  private final Duration patience;

  RequestLimits(MnemexSettings settings) {
    patience = settings.bodyLimit();
  }

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
    boolean stream = isStream(request);
    LimitedBody body =
        stream
            ? new LimitedBody(request, LimitedBody.ANY_SIZE, LimitedBody.ANY_TIME)
            : new LimitedBody(request, MAX_BODY_BYTES, patience);
    if (!stream && request.getContentLengthLong() > MAX_BODY_BYTES) {
      AccessConfiguration.send(
          response,
          Problems.problem(
              ProblemType.BODY_TOO_LARGE,
              new BodyTooLargeException(MAX_BODY_BYTES).getMessage(),
              null));
    } else {
      chain.doFilter(body, response);
    }
    if (response.getStatus() == ProblemType.BODY_TOO_SLOW.status()) {
      WebServer.closeAfter(request);
    } else if (!body.getInputStream().isFinished()) {
      // Most callers read the answer only when they have sent everything.
      response.flushBuffer();
      try {
        body.drain(MAX_DRAINED_BYTES, MAX_DRAINED);
      } catch (IOException e) {
        WebServer.closeAfter(request);
      }
    }
  }

  /** Pushed records are streamed, so lines are limited instead of the body. */
  private static boolean isStream(HttpServletRequest request) {
    return request.getMethod().equals("POST") && RECORDS.matcher(request.getRequestURI()).matches();
  }
}
