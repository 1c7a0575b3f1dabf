package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SourceStatements;

/** What the service refuses, and what it says when a part of it cannot run. */
class RefusalTest {
  @Test
  void unknownKeysReservedNamesAndForbiddenColumnsAreRefused(@TempDir Path folder)
      throws Exception {
    GardenFiles.create(folder, 200);
    try (RunningService service = RunningService.start(folder)) {
      // Before there is any index no table is followed; what would be needed is told.
      Map<String, String> all = GardenFiles.definitions();
      Map<String, String> source = new LinkedHashMap<>(all);
      source.keySet().retainAll(Set.of("source.yaml", "garden.yaml"));
      service.client.apply(source);
      SourceStatements none = service.client.source("garden").prepare(false);
      assertThat(none.indexes()).isEmpty();
      assertThat(none.statements()).noneMatch(sql -> sql.contains("CREATE TRIGGER"));
      SourceStatements wanted = service.client.source("garden").prepare(false, all);
      assertThat(wanted.indexes()).containsExactly("plants");
      assertThat(wanted.statements()).anyMatch(sql -> sql.contains("CREATE TRIGGER"));

      service.applyGarden();
      HttpResponse<String> unknown =
          service.post("/search/plant-search", "{\"q\": \"fern\", \"facet\": {}}");
      assertThat(unknown.statusCode()).isEqualTo(400);
      assertThat(unknown.body())
          .contains("unknown-key", "an unknown key 'facet'", "\"suggestion\":\"facets\"");
      assertThat(service.post("/api/indexes/plants/audits", "{\"repairs\": true}").body())
          .contains("\"suggestion\":\"repair\"");

      // A choice is taken back without losing the rest of the search.
      String remove =
          service
              .get(
                  "/search/plant-search?q=fern&evergreen=true&size=3&where=height_cm%20%3E%205&near=51,0")
              .body();
      assertThat(remove).contains("?q=fern&where=height_cm+%3E+5&near=51%2C0&size=3\"");

      Map<String, String> reserved =
          GardenFiles.edited(
              "plant-search.yaml", text -> text.replace("  evergreen:", "  true_for:"));
      assertThatThrownBy(() -> service.client.apply(reserved))
          .isInstanceOf(ProblemException.class)
          .hasMessageContaining("'true_for' is a parameter of every search");

      Map<String, String> forbidden =
          GardenFiles.edited(
              "plants.yaml",
              text ->
                  text.replaceFirst(
                      "(?m)^fields:\n",
                      "fields:\n  leaked: {sql: \"(SELECT email FROM person LIMIT 1)\", type: exact}\n"));
      assertThatThrownBy(() -> service.client.plan(forbidden))
          .isInstanceOf(ProblemException.class)
          .hasMessageContaining("a sub-query reads tables whose changes are not followed");

      assertThat(service.get("/api/health-and-metrics/health/readiness").body()).contains("UP");
      assertThat(service.get("/api/health-and-metrics/health").body())
          .contains("\"feeds\"", "\"editions\"", "\"plants\":\"LIVE\"");
    }
  }

  @Test
  void anIndexThatCannotBeStartedIsNamedAndStartsWhenItCan(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 100);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      service.stop();
      Path index = folder.resolve("mnemex-data/indexes/plants");
      Files.move(index, folder.resolve("elsewhere"));
      Files.writeString(index, "in the way");
      service.restart();
      assertThat(service.client.index("plants").problem()).contains("not running", "plants");
      assertThat(service.get("/search/plant-search?q=fern").statusCode()).isEqualTo(503);
      assertThat(service.get("/search/plant-search?q=fern").body()).contains("index-not-running");
      assertThat(service.get("/api/health-and-metrics/health/readiness").statusCode())
          .isEqualTo(503);
      assertThat(service.client.isUp()).isTrue();
      assertThat(service.get("/api/overview").body()).contains("\"problem\":\"not running");
      assertThatThrownBy(() -> service.client.apply(GardenFiles.definitions()))
          .hasMessageContaining("is not running, so no edition can be built");
      Files.delete(index);
      Files.move(folder.resolve("elsewhere"), index);
      RunningService.await(() -> service.client.index("plants").problem() == null);
      service.awaitTrue("plants");
      assertThat(service.client.index("plants").live().number()).isEqualTo(1);
    }
  }

  @Test
  void anArgumentThatWouldChangeNothingIsRefused(@TempDir Path folder) throws Exception {
    List<String> command = new ArrayList<>(Packaged.service());
    command.addAll(List.of("--port", "7177"));
    Path said = folder.resolve("said");
    Process process =
        new ProcessBuilder(command)
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(said.toFile())
            .start();
    assertThat(process.waitFor()).isEqualTo(2);
    assertThat(said)
        .content()
        .contains("'--port' is not a setting of the service; write --server.port=");
  }
}
