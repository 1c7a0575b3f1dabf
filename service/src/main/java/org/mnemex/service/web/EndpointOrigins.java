package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.time.Duration;
import java.util.List;
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
    if (!path.startsWith(SEARCH)) {
      return null;
    }
    RunningEndpoint running =
        installation.running().endpoints().get(path.substring(SEARCH.length()).split("/", 2)[0]);
    List<String> origins = running == null ? List.of() : running.endpoint().newest().origins();
    if (origins.isEmpty()) {
      return null;
    }
    CorsConfiguration allowed = new CorsConfiguration();
    allowed.setAllowedOrigins(origins);
    allowed.setAllowedMethods(List.of("GET", "POST"));
    allowed.setAllowedHeaders(List.of("Authorization", "Content-Type"));
    allowed.setExposedHeaders(List.of("RateLimit", "RateLimit-Policy", "Retry-After"));
    allowed.setMaxAge(PREFLIGHT);
    return allowed;
  }
}
