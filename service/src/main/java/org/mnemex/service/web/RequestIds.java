package org.mnemex.service.web;

import jakarta.servlet.ServletException;
import java.io.IOException;
import java.util.HexFormat;
import java.util.concurrent.ThreadLocalRandom;
import java.util.regex.Pattern;
import org.apache.catalina.connector.Request;
import org.apache.catalina.connector.Response;
import org.apache.catalina.valves.ValveBase;
import org.jspecify.annotations.Nullable;
import org.slf4j.MDC;

/**
 * Gives each request an id, or takes that of the caller: it stands in the answer, in problem
 * documents and in every line of the log that the request causes.
 */
final class RequestIds extends ValveBase {
  /** The header of requests and answers. */
  static final String HEADER = "X-Request-Id";

  private static final String KEY = "request";
  private static final Pattern TAKEN = Pattern.compile("[A-Za-z0-9._-]{1,64}");

  RequestIds() {
    super(true);
  }

  /** The id of the request that this thread answers; null if it answers none. */
  static @Nullable String current() {
    return MDC.get(KEY);
  }

  @Override
  public void invoke(Request request, Response response) throws IOException, ServletException {
    String given = request.getHeader(HEADER);
    // Whatever else a caller may write does not get into a log.
    String id =
        given != null && TAKEN.matcher(given).matches()
            ? given
            : HexFormat.of().toHexDigits(ThreadLocalRandom.current().nextLong());
    response.setHeader(HEADER, id);
    MDC.put(KEY, id);
    try {
      getNext().invoke(request, response);
    } finally {
      MDC.remove(KEY);
    }
  }
}
