package org.mnemex.client;

import tools.jackson.core.type.TypeReference;

/** Calls about what people search for; made by {@link MnemexClient#insights}. */
public final class InsightClient {
  private final Calls calls;

  InsightClient(Calls calls) {
    this.calls = calls;
  }

  /**
   * The endpoints that were searched, the busiest first.
   *
   * @param days how many days back, from now; likewise below
   */
  public Listed<EndpointSearches> byEndpoint(int days) {
    return new Listed<>(calls, "/api/insights?days=" + days, new TypeReference<>() {});
  }

  /**
   * What people searched for at an endpoint, and what they found.
   *
   * @param report frequent, without-results, few-results, never-opened, far-down, slow, rising,
   *     later-pages, mended or curated
   */
  public Listed<InsightEntry> report(String endpoint, String report, int days, int limit) {
    return new Listed<>(
        calls,
        "%s?report=%s&days=%s&limit=%s".formatted(of(endpoint), Calls.encode(report), days, limit),
        new TypeReference<>() {});
  }

  /** Searches by hour, or by day for more than three days. */
  public Listed<SearchesOverTime> overTime(String endpoint, int days) {
    return new Listed<>(
        calls, "%s/over-time?days=%s".formatted(of(endpoint), days), new TypeReference<>() {});
  }

  /** The facets that people choose from, the most used first. */
  public Listed<UsedFacet> facets(String endpoint, int days) {
    return new Listed<>(
        calls, "%s/facets?days=%s".formatted(of(endpoint), days), new TypeReference<>() {});
  }

  /**
   * Records that people opened, and the grades that this suggests for a scorecard.
   *
   * @param least only after words with at least so many opens
   */
  public Listed<OpenedRecord> opened(String endpoint, int least, int days, int limit) {
    return new Listed<>(
        calls,
        "%s/opened?least=%s&days=%s&limit=%s".formatted(of(endpoint), least, days, limit),
        new TypeReference<>() {});
  }

  private static String of(String endpoint) {
    return "/api/endpoints/" + Calls.encode(endpoint) + "/insights";
  }
}
