package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.mnemex.service.compute.SearchSlots;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Refuses searches while the queue is full, before their callers are looked up: a rush then costs a
 * fraction of what it would cost to know each caller first. {@link RequestLimits} comes before it,
 * because the body of what is refused may be slow, too.
 */
@Component
@Order(RequestLimits.ORDER + 1)
class FullQueueFilter extends OncePerRequestFilter {
  private static final String SEARCHES = "/search/";

  private final SearchSlots slots;

  FullQueueFilter(SearchSlots slots) {
    this.slots = slots;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    if (slots.isFull() && request.getRequestURI().startsWith(SEARCHES)) {
      response.setHeader(HttpHeaders.RETRY_AFTER, Integer.toString(SearchSlots.RETRY_SECONDS));
      AccessConfiguration.send(
          response, Problems.problem(ProblemType.TOO_BUSY, slots.fullness(), null));
    } else {
      chain.doFilter(request, response);
    }
  }
}
