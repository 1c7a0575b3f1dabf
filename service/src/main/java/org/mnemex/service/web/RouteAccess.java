package org.mnemex.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.access.Caller;
import org.mnemex.service.access.Right;
import org.mnemex.service.access.Routes;
import org.mnemex.service.access.Scope;
import org.springframework.http.HttpHeaders;
import org.springframework.security.authorization.AuthorizationDecision;
import org.springframework.security.authorization.AuthorizationManager;
import org.springframework.security.authorization.AuthorizationResult;
import org.springframework.security.core.Authentication;
import org.springframework.security.web.access.intercept.RequestAuthorizationContext;
import org.springframework.security.web.servlet.util.matcher.PathPatternRequestMatcher;
import org.springframework.security.web.util.matcher.IpAddressMatcher;
import org.springframework.security.web.util.matcher.RequestMatcher;
import org.springframework.stereotype.Component;

/** Decides whether a caller may make a request, by {@link Routes} and the scope of its key. */
@Component
class RouteAccess implements AuthorizationManager<RequestAuthorizationContext> {
  /** The attribute of a request with the reason for a refusal. */
  static final String REASON = RouteAccess.class.getName() + ".reason";

  /** The console's files: there is nothing to protect in them. */
  private static final List<String> PAGES =
      List.of(
          "/",
          "/index.html",
          "/console",
          "/console/**",
          "/assets/**",
          "/pages/**",
          "/mark.svg",
          "/favicon.ico");

  private static final String SEVERAL = "/search";
  private static final String ENDPOINT = "endpoint";

  private final List<Matched> routes;
  private final List<RequestMatcher> pages;
  private final Callers callers;

  /** The attribute of a request with its {@link Match}, which several filters ask for. */
  private static final String MATCH = RouteAccess.class.getName() + ".match";

  private static final Match NONE = new Match(null, Map.of());

  private record Matched(Routes.Route route, RequestMatcher matcher) {}

  /**
   * What a request calls, however its path is spelled.
   *
   * @param route null if it is none of {@link Routes}
   * @param variables decoded variables of the path, in its order
   */
  record Match(Routes.@Nullable Route route, Map<String, String> variables) {
    /** The endpoints whose search API is called. */
    List<String> searched(HttpServletRequest request) {
      if (route == null || !isSearch(route.path())) {
        return List.of();
      }
      return route.path().equals(SEVERAL)
          ? several(request)
          : List.of(variables.getOrDefault(ENDPOINT, ""));
    }
  }

  /** Whether a path belongs to what frontends call. */
  static boolean isSearch(String path) {
    return path.equals(SEVERAL) || path.startsWith(SEVERAL + "/");
  }

  /** The endpoints of a call of several. */
  static List<String> several(HttpServletRequest request) {
    String[] names = request.getParameterValues(ENDPOINT);
    return names == null ? List.of() : List.of(names);
  }

  RouteAccess(Callers callers) {
    this.callers = callers;
    this.routes =
        Routes.all().stream()
            .map(
                route ->
                    new Matched(
                        route, PathPatternRequestMatcher.withDefaults().matcher(route.path())))
            .toList();
    this.pages =
        PAGES.stream()
            .<RequestMatcher>map(path -> PathPatternRequestMatcher.withDefaults().matcher(path))
            .toList();
  }

  @Override
  public AuthorizationResult authorize(
      Supplier<? extends @Nullable Authentication> authentication,
      RequestAuthorizationContext context) {
    HttpServletRequest request = context.getRequest();
    String reason = refusal(request, callers.current());
    request.setAttribute(REASON, reason);
    return new AuthorizationDecision(reason == null);
  }

  /** Why a request is refused, or null. */
  private @Nullable String refusal(HttpServletRequest request, @Nullable Caller caller) {
    Match match = of(request);
    Routes.Route route = match.route();
    if (route == null) {
      // Whoever may do everything is told what is wrong with the request.
      boolean told = caller != null && caller.right() == Right.ADMIN;
      return told || isPage(request) ? null : denied(caller);
    }
    if (route.rights().isEmpty()) {
      return null;
    }
    if (caller == null) {
      return "this call needs a key";
    }
    if (!route.rights().contains(caller.right())) {
      return "this call needs the right "
          + route.rights().stream().sorted().map(Right::word).collect(Collectors.joining(" or "));
    }
    Set<String> endpoints = new LinkedHashSet<>(match.searched(request));
    if (match.variables().containsKey(ENDPOINT)) {
      endpoints.add(match.variables().get(ENDPOINT));
    }
    for (String endpoint : endpoints) {
      if (!caller.maySearch(endpoint)) {
        return "this key or token is not for endpoint '" + endpoint + "'";
      }
    }
    String index = match.variables().get("index");
    if (index != null && caller.right() == Right.WRITE && !caller.mayPush(index)) {
      return "this key is not for index '" + index + "'";
    }
    return caller.scopes().stream()
        .map(scope -> elsewhere(scope, request))
        .filter(Objects::nonNull)
        .findFirst()
        .orElse(null);
  }

  private static String denied(@Nullable Caller caller) {
    return caller == null ? "this call needs a key" : "there is nothing to call here";
  }

  /** Why a scope does not allow where a request comes from, or null. */
  private static @Nullable String elsewhere(Scope scope, HttpServletRequest request) {
    if (!scope.networks().isEmpty()
        && scope.networks().stream()
            .noneMatch(network -> new IpAddressMatcher(network).matches(request))) {
      return "this key is not for network address " + Callers.address(request);
    }
    String origin = request.getHeader(HttpHeaders.ORIGIN);
    if (!scope.origins().isEmpty() && (origin == null || !scope.origins().contains(origin))) {
      return "this key is not for pages of " + origin;
    }
    return null;
  }

  /** What a request calls. */
  Match of(HttpServletRequest request) {
    if (request.getAttribute(MATCH) instanceof Match known) {
      return known;
    }
    Match match = match(request);
    request.setAttribute(MATCH, match);
    return match;
  }

  private Match match(HttpServletRequest request) {
    String method = method(request);
    for (Matched one : routes) {
      if (one.route().method().equals(method)) {
        RequestMatcher.MatchResult result = one.matcher().matcher(request);
        if (result.isMatch()) {
          return new Match(one.route(), result.getVariables());
        }
      }
    }
    return NONE;
  }

  /** The handlers of GET answer HEAD as well. */
  private static String method(HttpServletRequest request) {
    return request.getMethod().equals("HEAD") ? "GET" : request.getMethod();
  }

  private boolean isPage(HttpServletRequest request) {
    return method(request).equals("GET") && pages.stream().anyMatch(page -> page.matches(request));
  }
}
