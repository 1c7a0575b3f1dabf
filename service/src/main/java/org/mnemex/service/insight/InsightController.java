package org.mnemex.service.insight;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.EndpointRow;
import org.mnemex.service.store.InsightMapper.InsightRow;
import org.mnemex.service.store.InsightMapper.TimeRow;
import org.mnemex.service.store.InsightMapper.UsedFacetRow;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What people search for and what they find. */
@Tag(name = "Insights", description = "what people search for and what they find")
@RestController
class InsightController {
  private static final int MAX_DAYS = 366;
  private static final int MAX_ROWS = 1000;
  private static final int HOURS = 13;
  private static final int DAYS = 10;

  /** Of so few days, hours are told apart. */
  private static final int FEW_DAYS = 3;

  /** Grades begin at these shares of the opens. */
  private static final double EXACTLY = 0.5;

  private static final double GOOD = 0.2;
  private static final double RELATED = 0.05;
  private static final int MAX_OPENS = 1_000_000;

  private final RecordedSearches recorded;
  private final InsightMapper insights;
  private final Installation installation;
  private final Clock clock;

  InsightController(
      RecordedSearches recorded, InsightMapper insights, Installation installation, Clock clock) {
    this.recorded = recorded;
    this.insights = insights;
    this.installation = installation;
    this.clock = clock;
  }

  @Operation(
      summary = "Report what people search for",
      description =
          "'report' is frequent, without-results, few-results, never-opened, far-down, slow,"
              + " rising, later-pages, mended or curated. Nothing says who searched.")
  @GetMapping("/api/endpoints/{endpoint}/insights")
  List<InsightRow> report(
      @PathVariable String endpoint,
      @RequestParam(defaultValue = "frequent") String report,
      @RequestParam(defaultValue = "7") int days,
      @RequestParam(defaultValue = "100") int limit) {
    checkKnown(endpoint);
    Report wanted = Report.of(report);
    check("limit", limit, MAX_ROWS);
    Instant from = from(days);
    recorded.write();
    return insights.report(
        endpoint,
        wanted.having(),
        wanted.order(),
        RecordedSearches.since(from, days),
        RecordedSearches.since(from.minus(Duration.ofDays(days)), 2 * days),
        limit);
  }

  @Operation(
      summary = "Count searches over time",
      description = "By hour for up to three days, otherwise by day; UTC.")
  @GetMapping("/api/endpoints/{endpoint}/insights/over-time")
  List<TimeRow> overTime(
      @PathVariable String endpoint, @RequestParam(defaultValue = "7") int days) {
    checkKnown(endpoint);
    Instant from = from(days);
    recorded.write();
    return insights.overTime(
        endpoint, RecordedSearches.since(from, days), days <= FEW_DAYS ? HOURS : DAYS);
  }

  @Operation(summary = "Count the searches of each endpoint", description = "The busiest first.")
  @GetMapping("/api/insights")
  List<EndpointRow> byEndpoint(@RequestParam(defaultValue = "7") int days) {
    Instant from = from(days);
    recorded.write();
    Set<String> known = installation.running().endpoints().keySet();
    return insights.byEndpoint(RecordedSearches.since(from, days)).stream()
        .filter(row -> known.contains(row.endpoint()))
        .toList();
  }

  @Operation(
      summary = "Count the searches that chose from each facet",
      description = "By whole days, UTC; the most used first.")
  @GetMapping("/api/endpoints/{endpoint}/insights/facets")
  List<UsedFacetRow> facets(
      @PathVariable String endpoint, @RequestParam(defaultValue = "7") int days) {
    checkKnown(endpoint);
    Instant from = from(days);
    recorded.write();
    return insights.facets(endpoint, RecordedSearches.day(from));
  }

  /**
   * A record that people opened after searching for some words.
   *
   * @param words the words, in lower case
   * @param key the record's key
   * @param opens how often it was opened
   * @param share its part of the opens after these words, 0 to 1, each weighted by how unlikely a
   *     result is to be seen at its place
   * @param grade the grade that this suggests for a scorecard, 1 to 3
   */
  record OpenedRecord(String words, String key, long opens, double share, int grade) {}

  @Operation(
      summary = "Report which records people opened",
      description =
          "By words with at least 'least' opens in whole days, UTC, with the grade that each record"
              + " suggests for a scorecard; 'q' asks for certain words. Nothing is graded by itself.")
  @GetMapping("/api/endpoints/{endpoint}/insights/opened")
  List<OpenedRecord> opened(
      @PathVariable String endpoint,
      @RequestParam(required = false) @Nullable String q,
      @RequestParam(defaultValue = "20") int least,
      @RequestParam(defaultValue = "30") int days,
      @RequestParam(defaultValue = "100") int limit) {
    checkKnown(endpoint);
    check("limit", limit, MAX_ROWS);
    check("least", least, MAX_OPENS);
    Instant from = from(days);
    recorded.write();
    return insights
        .opened(
            endpoint,
            RecordedSearches.day(from),
            q == null ? null : RecordedSearches.normal(q),
            least,
            RELATED,
            limit)
        .stream()
        .map(
            row ->
                new OpenedRecord(
                    row.words(), row.key(), row.opens(), row.share(), grade(row.share())))
        .toList();
  }

  private static int grade(double share) {
    return share >= EXACTLY ? 3 : share >= GOOD ? 2 : 1;
  }

  private void checkKnown(String endpoint) {
    Set<String> known = installation.running().endpoints().keySet();
    if (!known.contains(endpoint)) {
      throw new ProblemException(
          ProblemType.UNKNOWN_ENDPOINT,
          "there is no endpoint '" + endpoint + "'",
          NearestName.to(endpoint, known));
    }
  }

  private Instant from(int days) {
    check("days", days, MAX_DAYS);
    return clock.instant().minus(Duration.ofDays(days));
  }

  private static void check(String name, int value, int most) {
    if (value < 1 || value > most) {
      throw new ProblemException(
          ProblemType.BAD_INSIGHTS, "'%s' is 1 to %,d".formatted(name, most));
    }
  }
}
