package org.mnemex.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.sync.source.Shard;
import org.springframework.core.annotation.Order;
import org.springframework.http.ProblemDetail;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Refuses what another process has to answer. A search node answers searches and says how it is;
 * whatever else is done where it follows. The builder of one shard does all but answer searches, as
 * it would find a part of the records only.
 */
@Component
@Order(RequestLimits.ORDER + 2)
class RoleFilter extends OncePerRequestFilter {
  private static final String SEARCH = "/search";

  /** The rest of the API and the console are about what is built here. */
  private static final List<String> ELSEWHERE = List.of("/api/", "/console");

  private static final List<String> HERE =
      List.of(
          "/api/store",
          "/api/shards",
          "/api/conditions",
          "/api/session",
          "/api/health-and-metrics/");

  private final boolean isSearchNode;
  private final Shard shard;

  RoleFilter(MnemexSettings settings) {
    isSearchNode = settings.role() == MnemexSettings.Role.SEARCH;
    shard = settings.ownShard();
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    ProblemDetail problem = problem(request.getRequestURI());
    if (problem == null) {
      chain.doFilter(request, response);
    } else {
      AccessConfiguration.send(response, problem);
    }
  }

  private @Nullable ProblemDetail problem(String path) {
    boolean elsewhere =
        path.equals("/")
            || ELSEWHERE.stream().anyMatch(path::startsWith)
                && HERE.stream().noneMatch(path::startsWith);
    if (isSearchNode && elsewhere) {
      return Problems.problem(
          ProblemType.SEARCH_NODE,
          "this is a search node, which only answers searches; call the service that builds the indexes",
          null);
    }
    boolean isSearch = path.equals(SEARCH) || path.startsWith(SEARCH + "/");
    if (!shard.isWhole() && isSearch) {
      return Problems.problem(
          ProblemType.ONE_SHARD,
          "this service builds shard %s and would find only some of the records; ask a search node"
              .formatted(shard),
          null);
    }
    return null;
  }
}
