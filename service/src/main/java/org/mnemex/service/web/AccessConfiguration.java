package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.time.Clock;
import org.mnemex.service.access.ActivityLog;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemType;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.http.HttpHeaders;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.security.authentication.ProviderManager;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.http.SessionCreationPolicy;
import org.springframework.security.config.observation.SecurityObservationSettings;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.intercept.AuthorizationFilter;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.context.SecurityContextRepository;
import org.springframework.security.web.csrf.CsrfFilter;
import org.springframework.security.web.firewall.HttpFirewall;
import org.springframework.security.web.firewall.RequestRejectedHandler;
import org.springframework.security.web.firewall.StrictHttpFirewall;

/** Who may call what over HTTP, by Spring Security. */
@Configuration
class AccessConfiguration {
  private static final String CHALLENGE = "Bearer realm=\"mnemex\"";

  /** Observing each filter of each call costs more than they do; calls are observed as a whole. */
  @Bean
  SecurityObservationSettings observedAsAWhole() {
    return SecurityObservationSettings.noObservations();
  }

  @Bean
  SecurityFilterChain access(
      HttpSecurity http,
      Callers callers,
      RouteAccess routes,
      SecurityContextRepository contexts,
      ActivityLog activity,
      Installation installation,
      EndpointOrigins origins,
      Clock clock)
      throws Exception {
    http.addFilterAfter(
            new ActivityFilter(activity, callers, routes, clock), SecurityContextHolderFilter.class)
        .addFilterAfter(new CallRates(callers, routes, installation), AuthorizationFilter.class)
        .cors(cors -> cors.configurationSource(origins))
        .authorizeHttpRequests(requests -> requests.anyRequest().access(routes))
        .oauth2ResourceServer(
            bearer ->
                bearer
                    .authenticationManagerResolver(request -> new ProviderManager(callers))
                    .authenticationEntryPoint((request, response, e) -> noKey(request, response)))
        .exceptionHandling(
            errors ->
                errors
                    .authenticationEntryPoint((request, response, e) -> noKey(request, response))
                    .accessDeniedHandler(
                        (request, response, e) -> {
                          // A session may outlive its key.
                          if (callers.current() == null) {
                            noKey(request, response);
                          } else {
                            refused(request, response);
                          }
                        }))
        .securityContext(context -> context.securityContextRepository(contexts))
        .sessionManagement(session -> session.sessionCreationPolicy(SessionCreationPolicy.NEVER))
        // Written by RequestLimits, for refusals before this chain as well.
        .headers(headers -> headers.disable())
        .requestCache(cache -> cache.disable())
        .logout(logout -> logout.disable());
    if (callers.needKeys()) {
      http.csrf(
          csrf -> csrf.spa().requireCsrfProtectionMatcher(AccessConfiguration::isFromSession));
    } else {
      // LocalGuard takes changes from local pages only, and there are no sessions to ride on.
      http.csrf(csrf -> csrf.disable());
    }
    return http.build();
  }

  @Bean
  SecurityContextRepository contexts() {
    return new HttpSessionSecurityContextRepository();
  }

  /** Keys of records may have any character; the web server and the controllers deal with it. */
  @Bean
  HttpFirewall firewall() {
    StrictHttpFirewall firewall = new StrictHttpFirewall();
    firewall.setAllowUrlEncodedSlash(true);
    firewall.setAllowUrlEncodedDoubleSlash(true);
    firewall.setAllowUrlEncodedPercent(true);
    firewall.setAllowUrlEncodedPeriod(true);
    firewall.setAllowSemicolon(true);
    firewall.setAllowBackSlash(true);
    firewall.setAllowNull(true);
    firewall.setAllowUrlEncodedCarriageReturn(true);
    firewall.setAllowUrlEncodedLineFeed(true);
    firewall.setAllowUrlEncodedLineSeparator(true);
    firewall.setAllowUrlEncodedParagraphSeparator(true);
    firewall.setAllowedParameterNames(name -> true);
    firewall.setAllowedParameterValues(value -> true);
    firewall.setAllowedHeaderNames(name -> true);
    firewall.setAllowedHeaderValues(value -> true);
    return firewall;
  }

  @Bean
  RequestRejectedHandler rejections() {
    return (request, response, e) ->
        send(response, Problems.of(HttpServletResponse.SC_BAD_REQUEST));
  }

  /** Only a cookie is sent by a browser without a page asking for it; a key is not. */
  private static boolean isFromSession(HttpServletRequest request) {
    return CsrfFilter.DEFAULT_CSRF_MATCHER.matches(request)
        && request.getHeader(HttpHeaders.AUTHORIZATION) == null
        && request.getSession(false) != null;
  }

  private static void noKey(HttpServletRequest request, HttpServletResponse response)
      throws IOException {
    boolean given = request.getHeader(HttpHeaders.AUTHORIZATION) != null;
    response.setHeader(
        HttpHeaders.WWW_AUTHENTICATE, given ? CHALLENGE + ", error=\"invalid_token\"" : CHALLENGE);
    send(
        response,
        Problems.problem(
            ProblemType.NO_KEY,
            given
                ? "the key or token is not valid; it may be mistyped, expired or revoked"
                : "this call needs a key: send it as 'Authorization: Bearer KEY'",
            null));
  }

  private static void refused(HttpServletRequest request, HttpServletResponse response)
      throws IOException {
    Object reason = request.getAttribute(RouteAccess.REASON);
    send(
        response,
        Problems.problem(
            ProblemType.NOT_ALLOWED,
            reason == null
                ? "the request was not sent by a page of this service"
                : reason.toString(),
            null));
  }

  static void send(HttpServletResponse response, ProblemDetail problem) throws IOException {
    response.setStatus(problem.getStatus());
    response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
    response.setCharacterEncoding("UTF-8");
    response.getWriter().write(Problems.json(problem));
  }
}
