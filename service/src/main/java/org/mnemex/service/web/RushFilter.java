package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.mnemex.service.compute.EventStreams;
import org.mnemex.service.compute.SearchSlots;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;
import org.springframework.web.cors.CorsProcessor;
import org.springframework.web.cors.CorsUtils;
import org.springframework.web.cors.DefaultCorsProcessor;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Refuses searches while the queue is full, and event streams that are opened too fast, before
 * their callers are looked up: a rush then costs a fraction of what it would cost to know each
 * caller first. {@link RequestLimits} comes before it, because the body of what is refused may be
 * slow, too.
 */
@Component
@Order(RequestLimits.ORDER + 1)
class RushFilter extends OncePerRequestFilter {

  private static final String EVENTS = "/api/events";

  private final SearchSlots slots;
  private final EventStreams streams;
  private final EndpointOrigins origins;
  private final CorsProcessor cors = new DefaultCorsProcessor();

  RushFilter(SearchSlots slots, EventStreams streams, EndpointOrigins origins) {
    this.origins = origins;
    this.slots = slots;
    this.streams = streams;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    String path = request.getRequestURI();
    if (RouteAccess.isSearch(path) && !CorsUtils.isPreFlightRequest(request) && slots.isFull()) {
      // Without these fields a page would see a failure of the network.
      cors.processRequest(origins.getCorsConfiguration(request), request, response);
      refuse(response, SearchSlots.RETRY_SECONDS, slots.fullness());
    } else if (path.equals(EVENTS) && !streams.mayOpen()) {
      refuse(response, EventStreams.RETRY_SECONDS, streams.openingLimits());
    } else {
      chain.doFilter(request, response);
    }
  }

  private static void refuse(HttpServletResponse response, int retrySeconds, String why)
      throws IOException {
    response.setHeader(HttpHeaders.RETRY_AFTER, Integer.toString(retrySeconds));
    AccessConfiguration.send(response, Problems.problem(ProblemType.TOO_BUSY, why, null));
  }
}
