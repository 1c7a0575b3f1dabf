package org.mnemex.service.insight;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.sql.DriverManager;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.apache.ibatis.mapping.Environment;
import org.apache.ibatis.session.Configuration;
import org.apache.ibatis.session.SqlSession;
import org.apache.ibatis.session.SqlSessionFactoryBuilder;
import org.apache.ibatis.transaction.jdbc.JdbcTransactionFactory;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.insight.RecordedSearches.Searched;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.InsightRow;
import org.mnemex.service.store.InsightMapper.TimeRow;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import org.sqlite.SQLiteDataSource;

/** Counts over months, on a real database. */
class RecordedSearchesTest {
  private static final String ENDPOINT = "plant-search";
  private static final Instant START = Instant.parse("2026-03-01T00:30:00Z");

  @TempDir private Path folder;
  private final Clock clock = mock(Clock.class);
  private SqlSession session;
  private InsightMapper insights;
  private RecordedSearches recorded;

  @BeforeEach
  void open() {
    SQLiteDataSource database = new SQLiteDataSource();
    database.setUrl("jdbc:sqlite:" + folder.resolve("mnemex.db"));
    Flyway.configure().dataSource(database).load().migrate();
    Configuration configuration =
        new Configuration(new Environment("test", new JdbcTransactionFactory(), database));
    configuration.setMapUnderscoreToCamelCase(true);
    configuration.addMapper(InsightMapper.class);
    session = new SqlSessionFactoryBuilder().build(configuration).openSession(true);
    insights = session.getMapper(InsightMapper.class);
    MnemexSettings settings = mock(MnemexSettings.class);
    when(settings.recordQueries()).thenReturn(true);
    when(settings.insightRetention()).thenReturn(Duration.ofDays(30));
    recorded =
        new RecordedSearches(
            insights,
            new TransactionTemplate(mock(PlatformTransactionManager.class)),
            clock,
            settings);
  }

  @AfterEach
  void close() {
    session.close();
  }

  private void note(String words, long found, boolean isFirst) {
    recorded.note(new Searched(ENDPOINT, words, found, 2, isFirst, false, found == 0, false));
  }

  private List<InsightRow> report(Report report, Instant from, int days) {
    recorded.write();
    return insights.report(
        ENDPOINT,
        report.having(),
        report.order(),
        RecordedSearches.since(from, days),
        RecordedSearches.since(from.minus(Duration.ofDays(days)), 2 * days),
        100);
  }

  @Test
  void nothingIsLostWhenHoursBecomeDays() {
    Random random = new Random(7);
    Map<String, Long> truth = new HashMap<>();
    Instant end = START.plus(Duration.ofDays(25));
    for (Instant now = START; now.isBefore(end); now = now.plus(Duration.ofMinutes(90))) {
      when(clock.instant()).thenReturn(now);
      for (int i = 0; i < 3; i++) {
        String words = "word " + random.nextInt(5);
        note("  Word   " + words.substring(5), random.nextInt(4), true);
        truth.merge(words, 1L, Long::sum);
      }
      note("word 0", 30, false);
      if (random.nextInt(10) == 0) {
        recorded.write();
        recorded.age();
      }
    }
    recorded.write();
    recorded.age();
    recorded.age();
    List<InsightRow> all = report(Report.FREQUENT, START, 25);
    assertThat(all).hasSize(5);
    for (InsightRow row : all) {
      assertThat(row.searches()).as(row.words()).isEqualTo(truth.get(row.words()));
      assertThat(row.meanMillis()).isEqualTo(2);
      assertThat(row.withoutResults()).isEqualTo(row.corrected());
    }
    List<TimeRow> days = insights.overTime(ENDPOINT, RecordedSearches.since(START, 25), 10);
    assertThat(days).hasSize(25);
    assertThat(days.stream().mapToLong(TimeRow::searches).sum())
        .isEqualTo(truth.values().stream().mapToLong(Long::longValue).sum());
    assertThat(report(Report.LATER_PAGES, START, 25))
        .extracting(InsightRow::words)
        .containsExactly("word 0");
  }

  @Test
  void whatIsLongAgoIsForgotten() throws Exception {
    when(clock.instant()).thenReturn(START);
    note("early", 1, true);
    recorded.write();
    when(clock.instant()).thenReturn(START.plus(Duration.ofDays(29)));
    recorded.age();
    assertThat(recorded.most(ENDPOINT, 10)).containsExactly("early");
    when(clock.instant()).thenReturn(START.plus(Duration.ofDays(31)));
    recorded.age();
    assertThat(recorded.most(ENDPOINT, 10)).isEmpty();
    try (var connection =
            DriverManager.getConnection("jdbc:sqlite:" + folder.resolve("mnemex.db"));
        var rows = connection.createStatement().executeQuery("SELECT count(*) FROM searched")) {
      assertThat(rows.getInt(1)).isZero();
    }
  }

  @Test
  void whatRisesIsComparedWithTheTimeBefore() {
    for (int day = 0; day < 14; day++) {
      Instant now = START.plus(Duration.ofDays(day));
      when(clock.instant()).thenReturn(now);
      for (int i = 0; i < (day < 7 ? 5 : 1); i++) {
        note("snowdrop", 3, true);
      }
      for (int i = 0; i < (day < 7 ? 1 : 4); i++) {
        note("rose", 3, true);
      }
    }
    Instant week = START.plus(Duration.ofDays(7));
    List<InsightRow> rising = report(Report.RISING, week, 7);
    assertThat(rising).extracting(InsightRow::words).containsExactly("rose");
    assertThat(rising.getFirst().searches()).isEqualTo(28);
    assertThat(rising.getFirst().before()).isEqualTo(7);
  }
}
