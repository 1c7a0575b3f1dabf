package org.mnemex.service.insight;

import io.swagger.v3.oas.annotations.Operation;
import io.swagger.v3.oas.annotations.tags.Tag;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.mnemex.engine.text.NearestName;
import org.mnemex.service.install.Installation;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.InsightRow;
import org.mnemex.service.store.InsightMapper.TimeRow;
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
          "'report' is frequent, without-results, few-results, slow, rising, later-pages, mended"
              + " or curated. Nothing says who searched.")
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
