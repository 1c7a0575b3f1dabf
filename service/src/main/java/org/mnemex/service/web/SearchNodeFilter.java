package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.problem.ProblemType;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/** A search node answers searches and says how it is; whatever else is done where it follows. */
@Component
@Order(RequestLimits.ORDER + 2)
class SearchNodeFilter extends OncePerRequestFilter {
  /** The rest of the API and the console are about what is built here. */
  private static final List<String> ELSEWHERE = List.of("/api/", "/console");

  private static final List<String> HERE =
      List.of("/api/store", "/api/conditions", "/api/session", "/api/health-and-metrics/");

  private final boolean isSearchNode;

  SearchNodeFilter(MnemexSettings settings) {
    isSearchNode = settings.role() == MnemexSettings.Role.SEARCH;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    String path = request.getRequestURI();
    boolean elsewhere =
        path.equals("/")
            || ELSEWHERE.stream().anyMatch(path::startsWith)
                && HERE.stream().noneMatch(path::startsWith);
    if (isSearchNode && elsewhere) {
      AccessConfiguration.send(
          response,
          Problems.problem(
              ProblemType.SEARCH_NODE,
              "this is a search node, which only answers searches; call the service that builds the indexes",
              null));
    } else {
      chain.doFilter(request, response);
    }
  }
}
