package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.time.Duration;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.install.Installation;
import org.mnemex.service.install.RunningDefinition.RunningEndpoint;
import org.springframework.stereotype.Component;
import org.springframework.web.cors.CorsConfiguration;
import org.springframework.web.cors.CorsConfigurationSource;

/** Pages of other origins may call those endpoints that name them, and nothing else. */
@Component
class EndpointOrigins implements CorsConfigurationSource {
  private static final String SEARCH = "/search/";
  private static final Duration PREFLIGHT = Duration.ofHours(1);

  private final Installation installation;

  EndpointOrigins(Installation installation) {
    this.installation = installation;
  }

  @Override
  public @Nullable CorsConfiguration getCorsConfiguration(HttpServletRequest request) {
    String path = request.getRequestURI();
    if (!RouteAccess.isSearch(path)) {
      return null;
    }
    List<String> names =
        path.length() > SEARCH.length()
            ? List.of(path.substring(SEARCH.length()).split("/", 2)[0])
            : RouteAccess.several(request);
    // Of several endpoints, each must allow the page.
    Set<String> origins = new LinkedHashSet<>();
    for (int i = 0; i < names.size(); i++) {
      RunningEndpoint running = installation.running().endpoints().get(names.get(i));
      List<String> its = running == null ? List.of() : running.endpoint().newest().origins();
      if (i == 0) {
        origins.addAll(its);
      } else {
        origins.retainAll(its);
      }
    }
    if (origins.isEmpty()) {
      return null;
    }
    CorsConfiguration allowed = new CorsConfiguration();
    allowed.setAllowedOrigins(List.copyOf(origins));
    allowed.setAllowedMethods(List.of("GET", "POST"));
    allowed.setAllowedHeaders(List.of("Authorization", "Content-Type", "If-None-Match"));
    allowed.setExposedHeaders(
        List.of("ETag", "Link", "RateLimit", "RateLimit-Policy", "Retry-After", RequestIds.HEADER));
    allowed.setMaxAge(PREFLIGHT);
    return allowed;
  }
}
