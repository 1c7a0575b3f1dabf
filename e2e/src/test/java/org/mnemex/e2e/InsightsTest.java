package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.InsightClient;
import org.mnemex.client.InsightEntry;
import org.mnemex.client.OpenedRecord;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.SearchesOverTime;
import org.mnemex.client.TableFormat;
import org.mnemex.client.UsedFacet;

/** What people searched for, as the service tells it. */
class InsightsTest {
  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 400);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static void search(String words, int page) {
    service.client.search("plant-search", SearchQuery.words(words).page(page, 10));
  }

  @Test
  void searchesAreCountedByWhatTheyFind() throws Exception {
    for (String words : List.of("rose", " Rose ", "ROSE", "zzyzx", "zzyzx", "")) {
      search(words, 1);
    }
    search("rose", 2);
    // Whoever is still typing has not searched yet.
    assertThat(service.get("/search/plant-search?q=hal&typing=true").statusCode()).isEqualTo(200);
    InsightClient insights = service.client.insights();
    List<InsightEntry> frequent = insights.report("plant-search", "frequent", 1, 10).rows();
    assertThat(frequent).extracting(InsightEntry::words).containsExactly("rose", "zzyzx");
    InsightEntry rose = frequent.getFirst();
    assertThat(rose.searches()).isEqualTo(3);
    assertThat(rose.laterPages()).isEqualTo(1);
    double found = service.client.search("plant-search", SearchQuery.words("rose")).total().count();
    assertThat(rose.meanResults()).isEqualTo(found);
    assertThat(rose.slowest()).isPositive();
    List<InsightEntry> without = insights.report("plant-search", "without-results", 1, 10).rows();
    assertThat(without).extracting(InsightEntry::words).containsExactly("zzyzx");
    assertThat(without.getFirst().withoutResults()).isEqualTo(2);
    List<SearchesOverTime> hours = insights.overTime("plant-search", 1).rows();
    // The one above has been counted by now.
    assertThat(hours.stream().mapToLong(SearchesOverTime::searches).sum()).isEqualTo(7);
    assertThatThrownBy(() -> insights.report("plant-serch", "frequent", 1, 10).rows())
        .hasMessageContaining("there is no endpoint 'plant-serch'");
    assertThatThrownBy(() -> insights.report("plant-search", "frequnt", 1, 10).rows())
        .hasMessageContaining("there is no report 'frequnt'");
    assertThatThrownBy(() -> insights.report("plant-search", "slow", 0, 10).rows())
        .hasMessageContaining("'days' is 1 to 366");
    service.kill();
    service.restart();
    assertThat(insights.report("plant-search", "without-results", 1, 10).rows())
        .extracting(InsightEntry::withoutResults)
        .containsExactly(2L);
  }

  @Test
  void whatIsOpenedIsTold() throws Exception {
    service.client.apply(
        Map.of(
            "fern-search.yaml",
            """
            endpoint: fern-search
            index: plants
            search: {latin_name: 2, notes: 1}
            only: family = 'Aspleniaceae'
            facets: {family: {field: family, title: Family}}
            show: [name]
            """));
    InsightClient insights = service.client.insights();
    String best = "";
    for (int i = 0; i < 3; i++) {
      SearchAnswer answer =
          service.client.search(
              "fern-search", SearchQuery.words("Asplenium").choose("family", "Aspleniaceae"));
      best = answer.results().getFirst().key();
      String id = Objects.requireNonNull(answer.id());
      service.client.chosen("fern-search", id, best, 1);
      service.client.chosen("fern-search", id, best, 1);
    }
    assertThat(insights.opened("fern-search", 3, 1, 10).rows())
        .containsExactly(new OpenedRecord("asplenium", best, 3, 1, 3));
    assertThat(insights.opened("fern-search", 4, 1, 10).rows()).isEmpty();
    assertThat(insights.facets("fern-search", 1).rows())
        .containsExactly(new UsedFacet("family", 3));
    // A record that the endpoint hides cannot be told from one that does not exist.
    String id = service.client.search("fern-search", SearchQuery.words("asplenium")).id();
    SearchQuery others = SearchQuery.words("").where("family != 'Aspleniaceae'");
    String other = service.client.search("plant-search", others).results().getFirst().key();
    for (String key : List.of("nothing", other)) {
      assertThatThrownBy(() -> service.client.chosen("fern-search", id, key, 1))
          .hasMessageContaining("endpoint 'fern-search' has no record '" + key + "'");
    }
    assertThat(insights.byEndpoint(1).rows())
        .filteredOn(row -> row.endpoint().equals("fern-search"))
        .singleElement()
        .satisfies(
            row -> {
              assertThat(row.searches()).isEqualTo(4);
              assertThat(row.opened()).isEqualTo(3);
            });
    search("=1+1", 1);
    assertThat(insights.report("plant-search", "without-results", 1, 10).as(TableFormat.CSV))
        .startsWith("words,searches,before,withoutResults,")
        .contains("\r\n'=1+1,1,0,1,");
    assertThat(insights.facets("fern-search", 1).as(TableFormat.NDJSON))
        .isEqualTo("{\"facet\":\"family\",\"searches\":3}\n");
  }
}
