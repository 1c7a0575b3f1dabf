package org.mnemex.service.access;

import static org.mnemex.service.access.Right.ADMIN;
import static org.mnemex.service.access.Right.NODE;
import static org.mnemex.service.access.Right.READ;
import static org.mnemex.service.access.Right.SEARCH;
import static org.mnemex.service.access.Right.WRITE;

import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Set;

/** What each right allows, route by route. A route that is not listed is for administrators. */
public final class Routes {
  private Routes() {}

  /**
   * A route and who may call it.
   *
   * @param method HTTP method
   * @param path pattern as Spring writes it
   * @param rights who may call it; none: anybody, without a key
   * @param isAct whether calls are written to the activity log
   */
  public record Route(String method, String path, Set<Right> rights, boolean isAct) {}

  /** These change nothing, and are called as people type. */
  private static final Set<String> TRIALS =
      Set.of(
          "/api/check",
          "/api/plan",
          "/api/preview",
          "/api/draft",
          "/api/endpoints/{endpoint}/trials");

  private static final List<Route> ALL = new ArrayList<>();

  static {
    // Pages and explanations have nothing to protect.
    open("GET", "/problems", "/problems/{type}");
    open("GET", "/api/health-and-metrics/health/liveness");
    open("GET", "/api/health-and-metrics/health/readiness");
    open("GET", "/api/session");
    open("POST", "/api/session");
    open("DELETE", "/api/session");

    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search");
    allow(Set.of(ADMIN, READ, SEARCH), "POST", "/search");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}");
    allow(Set.of(ADMIN, READ, SEARCH), "POST", "/search/{endpoint}");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/suggest");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/facets/{facet}");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/openapi.json");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/page");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/records");
    allow(Set.of(ADMIN, READ, SEARCH), "GET", "/search/{endpoint}/records/{*key}");
    allow(Set.of(ADMIN, READ, SEARCH), "POST", "/search/{endpoint}/explain");
    allow(Set.of(ADMIN, READ, SEARCH), "POST", "/search/{endpoint}/chosen");

    allow(Set.of(ADMIN, WRITE), "PUT", "/api/indexes/{index}/records/{*key}");
    allow(Set.of(ADMIN, WRITE), "PATCH", "/api/indexes/{index}/records/{*key}");
    allow(Set.of(ADMIN, WRITE), "DELETE", "/api/indexes/{index}/records/{*key}");
    allow(Set.of(ADMIN, WRITE), "POST", "/api/indexes/{index}/records");
    allow(Set.of(ADMIN, WRITE), "PATCH", "/api/indexes/{index}/records");
    allow(Set.of(ADMIN, READ, WRITE), "GET", "/api/indexes/{index}/feed/position");

    allow(
        Set.of(ADMIN, READ),
        "GET",
        "/api/overview",
        "/api/events",
        "/api/indexes",
        "/api/indexes/{index}",
        "/api/indexes/{index}/shape",
        "/api/indexes/{index}/changes",
        "/api/indexes/{index}/quarantine",
        "/api/indexes/{index}/records",
        "/api/indexes/{index}/records/{*key}",
        "/api/indexes/{index}/audits",
        "/api/indexes/{index}/editions",
        "/api/indexes/{index}/sizes",
        "/api/indexes/{index}/feed/history",
        "/api/endpoints",
        "/api/endpoints/{endpoint}/queries",
        "/api/endpoints/{endpoint}/insights",
        "/api/endpoints/{endpoint}/insights/over-time",
        "/api/endpoints/{endpoint}/insights/facets",
        "/api/endpoints/{endpoint}/insights/opened",
        "/api/insights",
        "/api/endpoints/{endpoint}/compare/explain",
        "/api/definitions",
        "/api/definitions/{kind}/{name}",
        "/api/definitions/{kind}/{name}/differences",
        "/api/analysers",
        "/api/schemas",
        "/api/schemas/{kind}",
        "/api/scorecards",
        "/api/scorecards/{scorecard}/history",
        "/api/conditions",
        "/api/jobs",
        "/api/jobs/{job}",
        "/api/sources",
        "/api/store",
        "/api/nodes",
        "/api/sources/{source}/tables",
        "/api/health-and-metrics/**",
        "/api/openapi.json",
        "/api/openapi.json/**",
        "/api/docs/**",
        "/swagger-ui/**");
    allow(Set.of(ADMIN, NODE), "POST", "/api/nodes/{node}");
    allow(Set.of(ADMIN, NODE), "DELETE", "/api/nodes/{node}");
    allow(Set.of(ADMIN, NODE), "GET", "/api/shards");
    allow(Set.of(ADMIN, NODE), "POST", "/api/shards");

    allow(Set.of(ADMIN, READ), "POST", "/api/analysers/try");
    allow(Set.of(ADMIN, READ), "POST", "/api/endpoints/{endpoint}/compare");
    allow(Set.of(ADMIN, READ), "POST", "/api/indexes/{index}/fields/{field}/try");
    allow(Set.of(ADMIN, READ), "GET", "/api/sources/{source}/check");

    // Definitions carry SQL of the caller to databases, even if they are only tried.
    allow(Set.of(ADMIN), "POST", "/api/check", "/api/plan", "/api/preview", "/api/definitions");
    allow(Set.of(ADMIN), "POST", "/api/draft", "/api/endpoints/{endpoint}/trials");
    allow(Set.of(ADMIN), "DELETE", "/api/definitions/{kind}/{name}");
    allow(Set.of(ADMIN), "GET", "/api/sources/{source}/draft");
    allow(Set.of(ADMIN), "GET", "/api/sources/{source}/tables/{table}/rows");
    allow(Set.of(ADMIN), "POST", "/api/sources/{source}/prepare", "/api/sources/{source}/forget");
    allow(Set.of(ADMIN), "DELETE", "/api/sources/{source}/readers/{*reader}");
    allow(
        Set.of(ADMIN),
        "POST",
        "/api/indexes/{index}/quarantine/retry",
        "/api/indexes/{index}/quarantine/dismiss",
        "/api/indexes/{index}/audits",
        "/api/indexes/{index}/compact",
        "/api/indexes/{index}/promote",
        "/api/indexes/{index}/rollback",
        "/api/indexes/{index}/feed/pause",
        "/api/indexes/{index}/feed/resume",
        "/api/indexes/{index}/feed/agree",
        "/api/jobs/{job}/cancel",
        "/api/scorecards/{scorecard}/score");
    allow(Set.of(ADMIN), "POST", "/api/backups", "/api/conditions/test");
    allow(Set.of(ADMIN), "DELETE", "/api/backups/{backup}");
    allow(
        Set.of(ADMIN),
        "GET",
        "/api/backups",
        "/api/backups/{backup}",
        "/api/backups/{backup}/files/{*path}");
    allow(Set.of(ADMIN), "GET", "/api/keys", "/api/activity", "/api/activity/export");
    allow(Set.of(ADMIN), "POST", "/api/keys", "/api/keys/{id}/rotate");
    allow(Set.of(ADMIN), "DELETE", "/api/keys/{id}");
  }

  private static void open(String method, String... paths) {
    allow(EnumSet.noneOf(Right.class), method, paths);
  }

  private static void allow(Set<Right> rights, String method, String... paths) {
    for (String path : paths) {
      boolean act = !method.equals("GET") && rights.equals(Set.of(ADMIN));
      ALL.add(new Route(method, path, Set.copyOf(rights), act && !TRIALS.contains(path)));
    }
  }

  /** All routes. */
  public static List<Route> all() {
    return List.copyOf(ALL);
  }
}
