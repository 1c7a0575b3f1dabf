package org.mnemex.service.insight;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.net.URI;
import java.nio.file.Path;
import java.sql.DriverManager;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.Set;
import org.apache.ibatis.mapping.Environment;
import org.apache.ibatis.session.Configuration;
import org.apache.ibatis.session.SqlSession;
import org.apache.ibatis.session.SqlSessionFactoryBuilder;
import org.apache.ibatis.transaction.jdbc.JdbcTransactionFactory;
import org.flywaydb.core.Flyway;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.insight.RecordedSearches.Searched;
import org.mnemex.service.store.InsightMapper;
import org.mnemex.service.store.InsightMapper.InsightRow;
import org.mnemex.service.store.InsightMapper.OpenedShareRow;
import org.mnemex.service.store.InsightMapper.TimeRow;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import org.sqlite.SQLiteDataSource;
import tools.jackson.databind.json.JsonMapper;

/** Counts over months, on a real database. */
class RecordedSearchesTest {
  private static final String ENDPOINT = "plant-search";
  private static final Instant START = Instant.parse("2026-03-01T00:30:00Z");

  @TempDir private Path folder;
  private final Clock clock = mock(Clock.class);
  private final List<SqlSession> sessions = new ArrayList<>();
  private InsightMapper insights;
  private RecordedSearches recorded;

  @BeforeEach
  void open() {
    insights = insights("mnemex.db");
    recorded = recorded(insights, null);
  }

  private InsightMapper insights(String file) {
    SQLiteDataSource database = new SQLiteDataSource();
    database.setUrl("jdbc:sqlite:" + folder.resolve(file));
    Flyway.configure().dataSource(database).load().migrate();
    Configuration configuration =
        new Configuration(new Environment("test", new JdbcTransactionFactory(), database));
    configuration.setMapUnderscoreToCamelCase(true);
    configuration.addMapper(InsightMapper.class);
    SqlSession session = new SqlSessionFactoryBuilder().build(configuration).openSession(true);
    sessions.add(session);
    return session.getMapper(InsightMapper.class);
  }

  private RecordedSearches recorded(InsightMapper where, @Nullable URI builder) {
    MnemexSettings settings = mock(MnemexSettings.class);
    when(settings.recordQueries()).thenReturn(true);
    when(settings.insightRetention()).thenReturn(Duration.ofDays(30));
    when(settings.node()).thenReturn(new MnemexSettings.Node(null, builder, null, null, null));
    return new RecordedSearches(
        where,
        new TransactionTemplate(mock(PlatformTransactionManager.class)),
        clock,
        new JsonMapper(),
        settings);
  }

  @AfterEach
  void close() {
    sessions.forEach(SqlSession::close);
  }

  private void note(String words, long found, boolean isFirst) {
    search(words, found, false, isFirst);
  }

  private String search(String words, long found, boolean typing, boolean isFirst) {
    return Objects.requireNonNull(
        recorded.note(
            new Searched(
                ENDPOINT,
                words,
                found,
                2,
                typing,
                Set.of("family"),
                isFirst ? 0 : 24,
                isFirst,
                false,
                found == 0,
                false)));
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
  void whatASearchNodeCountsArrivesOnceHoweverOftenItIsSent() {
    Random random = new Random(3);
    when(clock.instant()).thenReturn(START);
    recorded = recorded(insights, URI.create("http://builder.example:7077"));
    CountsToPass toPass = Objects.requireNonNull(recorded.toPass());
    InsightMapper atBuilder = insights("builder.db");
    RecordedSearches builder = recorded(atBuilder, null);
    for (int step = 0; step < 400; step++) {
      boolean isLast = step > 380;
      if (!isLast) {
        String id = search("word " + random.nextInt(7), random.nextInt(4), false, true);
        recorded.open(ENDPOINT, id, "QB-0000" + random.nextInt(3), 1);
      }
      recorded.write();
      CountsToPass.Batch batch = toPass.next();
      if (batch != null) {
        assertThat(toPass.next()).isSameAs(batch);
        for (int sent = isLast ? 1 : random.nextInt(3); sent > 0; sent--) {
          builder.passed(batch, ENDPOINT::equals);
          if (isLast || random.nextBoolean()) {
            toPass.arrived(batch);
          }
        }
      }
      if (random.nextInt(20) == 0) {
        builder = recorded(atBuilder, null);
      }
    }
    assertThat(toPass.next()).isNull();
    String day = RecordedSearches.day(START);
    assertThat(atBuilder.byEndpoint(day)).hasSize(1).isEqualTo(insights.byEndpoint(day));
    assertThat(rows(atBuilder)).hasSize(7).isEqualTo(rows(insights));
    assertThat(atBuilder.facets(ENDPOINT, day)).isEqualTo(insights.facets(ENDPOINT, day));
    assertThat(opened(atBuilder, day)).isNotEmpty().isEqualTo(opened(insights, day));
  }

  private static List<InsightRow> rows(InsightMapper from) {
    return from.report(
        ENDPOINT,
        Report.of("frequent").having(),
        Report.of("frequent").order(),
        RecordedSearches.day(START),
        RecordedSearches.day(START),
        100);
  }

  /** Sums of weights are added up in another order. */
  private static List<String> opened(InsightMapper from, String day) {
    return from.opened(ENDPOINT, day, null, 1, 0, 100).stream()
        .map(row -> "%s %s %d %.9f".formatted(row.words(), row.key(), row.opens(), row.share()))
        .sorted()
        .toList();
  }

  @Test
  void whatNoSearchNodeCountsIsLeftOut() {
    when(clock.instant()).thenReturn(START);
    recorded = recorded(insights, URI.create("http://builder.example:7077"));
    search("fern", 1, false, true);
    recorded.write();
    CountsToPass.Batch batch =
        Objects.requireNonNull(Objects.requireNonNull(recorded.toPass()).next());
    String counted = new JsonMapper().writeValueAsString(batch);
    InsightMapper atBuilder = insights("builder.db");
    RecordedSearches builder = recorded(atBuilder, null);
    for (String[] change :
        new String[][] {
          {"plant-search", "rose-search"},
          {"\"endpoint\":\"plant-search\"", "\"endpoint\":null"},
          {"2026-03-01", "2025-03-01"},
          {"2026-03-01", "2026-04-01"},
          {"T00", "T00:30"},
          {"fern", "Fern"},
          {"fern", "f".repeat(201)},
          {"\"searches\":1", "\"searches\":-1"},
          {"\"slowest\":2.0", "\"slowest\":1e300"},
        }) {
      assertThat(counted).contains(change[0]);
      builder.passed(
          new JsonMapper()
              .readValue(counted.replace(change[0], change[1]), CountsToPass.Batch.class),
          ENDPOINT::equals);
      assertThat(rows(atBuilder)).as(change[1]).isEmpty();
      // What is left out has arrived all the same, so each of them needs a number of its own.
      atBuilder.forgetPassedBefore("9");
    }
    builder.passed(batch, ENDPOINT::equals);
    assertThat(rows(atBuilder)).hasSize(1);
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

  @Test
  void eachResultOfAnAnswerIsOpenedOnce() {
    when(clock.instant()).thenReturn(START);
    String first = search("Rose", 30, false, true);
    recorded.open(ENDPOINT, first, "a", 1);
    recorded.open(ENDPOINT, first, "a", 1);
    recorded.open(ENDPOINT, first, "b", 15);
    String second = search("rose", 30, false, true);
    when(clock.instant()).thenReturn(START.plus(Duration.ofHours(20)));
    recorded.open(ENDPOINT, second, "b", 15);
    search("rose", 30, false, true);
    search("fern", 3, false, true);
    search("zzyzx", 0, false, true);
    Instant end = START.plus(Duration.ofHours(21));
    InsightRow rose = report(Report.FAR_DOWN, START, 1).getFirst();
    assertThat(rose.words()).isEqualTo("rose");
    assertThat(rose.searches()).isEqualTo(3);
    assertThat(rose.opened()).isEqualTo(2);
    assertThat(rose.meanPosition()).isEqualTo((1 + 15 + 15) / 3.0);
    assertThat(report(Report.NEVER_OPENED, START, 1))
        .extracting(InsightRow::words)
        .containsExactly("fern");
    // A result far down tells more: 2 of 3 opens, but of 9 parts 8.
    String day = RecordedSearches.day(START);
    assertThat(insights.opened(ENDPOINT, day, null, 3, 0, 10))
        .containsExactly(
            new OpenedShareRow("rose", "b", 2, 8 / 9.0),
            new OpenedShareRow("rose", "a", 1, 1 / 9.0));
    assertThat(insights.opened(ENDPOINT, day, "rose", 4, 0, 10)).isEmpty();
    assertThat(insights.facets(ENDPOINT, day))
        .containsExactly(new InsightMapper.UsedFacetRow("family", 5));
    when(clock.instant()).thenReturn(end.plus(Duration.ofHours(5)));
    recorded.open(ENDPOINT, first, "c", 1);
    recorded.write();
    assertThat(insights.opened(ENDPOINT, day, null, 1, 0, 10)).hasSize(2);
    assertThatThrownBy(() -> recorded.open(ENDPOINT, "rose", "c", 1))
        .hasMessageContaining("is not the id of an answer");
  }

  @Test
  void wordsThatAreTypedCountOnceTheyAreMeant() {
    when(clock.instant()).thenReturn(START);
    search("ro", 50, true, true);
    String rose = search("rose", 30, true, true);
    assertThat(report(Report.FREQUENT, START, 1)).isEmpty();
    recorded.open(ENDPOINT, rose, null, 1);
    recorded.open(ENDPOINT, rose, "a", 1);
    List<InsightRow> all = report(Report.FREQUENT, START, 1);
    assertThat(all).extracting(InsightRow::words).containsExactly("rose");
    recorded.open(ENDPOINT, search("rose", 30, false, false), "b", 3);
    assertThat(report(Report.FAR_DOWN, START, 1).getFirst().meanPosition()).isEqualTo(14);
    assertThat(all.getFirst().searches()).isEqualTo(1);
    assertThat(all.getFirst().opened()).isEqualTo(1);
  }
}
