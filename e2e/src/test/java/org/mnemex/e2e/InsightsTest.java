package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.InsightEntry;
import org.mnemex.client.QualityClient;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.SearchesOverTime;

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
    QualityClient quality = service.client.quality();
    List<InsightEntry> frequent = quality.insights("plant-search", "frequent", 1, 10);
    assertThat(frequent).extracting(InsightEntry::words).containsExactly("rose", "zzyzx");
    InsightEntry rose = frequent.getFirst();
    assertThat(rose.searches()).isEqualTo(3);
    assertThat(rose.laterPages()).isEqualTo(1);
    double found = service.client.search("plant-search", SearchQuery.words("rose")).total().count();
    assertThat(rose.meanResults()).isEqualTo(found);
    assertThat(rose.slowest()).isPositive();
    List<InsightEntry> without = quality.insights("plant-search", "without-results", 1, 10);
    assertThat(without).extracting(InsightEntry::words).containsExactly("zzyzx");
    assertThat(without.getFirst().withoutResults()).isEqualTo(2);
    List<SearchesOverTime> hours = quality.searchesOverTime("plant-search", 1);
    // The one above has been counted by now.
    assertThat(hours.stream().mapToLong(SearchesOverTime::searches).sum()).isEqualTo(7);
    assertThatThrownBy(() -> quality.insights("plant-serch", "frequent", 1, 10))
        .hasMessageContaining("there is no endpoint 'plant-serch'");
    assertThatThrownBy(() -> quality.insights("plant-search", "frequnt", 1, 10))
        .hasMessageContaining("there is no report 'frequnt'");
    assertThatThrownBy(() -> quality.insights("plant-search", "slow", 0, 10))
        .hasMessageContaining("'days' is 1 to 366");
    service.kill();
    service.restart();
    assertThat(quality.insights("plant-search", "without-results", 1, 10))
        .extracting(InsightEntry::withoutResults)
        .containsExactly(2L);
  }
}
