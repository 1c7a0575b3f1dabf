package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.InsightEntry;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.NodeEntry;
import org.mnemex.client.SearchQuery;

/**
 * A search node that would look into the store once an hour: whatever it knows sooner, its builder
 * has told.
 */
class NodesInTouchTest {
  private static final String ENDPOINT = "plant-search";
  private static final String NODE = "fern-house";

  @TempDir private Path temp;

  private Path garden;

  private Path folder(String name) throws IOException {
    return Files.createDirectories(temp.resolve(name));
  }

  private String[] settings(String... more) throws IOException {
    List<String> settings =
        new ArrayList<>(
            List.of("--mnemex.store.kind=folder", "--mnemex.store.folder=" + folder("store")));
    settings.addAll(List.of(more));
    return settings.toArray(String[]::new);
  }

  private RunningService node(RunningService builder, Path key) throws IOException {
    return RunningService.configured(
        folder("node"),
        settings(
            "--mnemex.role=search",
            "--mnemex.store.every=1h",
            "--mnemex.node.name=" + NODE,
            "--mnemex.node.builder=" + builder.url,
            "--mnemex.node.key-file=" + key));
  }

  private void note(String word) throws SQLException {
    try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + garden);
        Statement statement = connection.createStatement()) {
      statement.executeUpdate(
          "UPDATE accession SET notes = 'Beside the %s' WHERE accession_no = 'QB-00017'"
              .formatted(word));
    }
  }

  private static boolean finds(MnemexClient client, String word) {
    return client.search(ENDPOINT, SearchQuery.words(word)).found() > 0;
  }

  private static List<String> states(MnemexClient builder) {
    return builder.nodes().stream().map(one -> one.name() + " " + one.state()).toList();
  }

  private static long counted(MnemexClient builder, String words) {
    return builder.insights().report(ENDPOINT, "frequent", 7, 100).rows().stream()
        .filter(row -> row.words().equals(words))
        .mapToLong(InsightEntry::searches)
        .sum();
  }

  @Test
  void theBuilderTellsWhatIsNewAndLearnsWhatIsSearchedFor() throws Exception {
    garden = GardenFiles.create(folder("builder"), 200);
    try (RunningService builder = RunningService.secured(folder("builder"), settings())) {
      MnemexClient admin = builder.client;
      String secret = admin.access().create(KeyRequest.of("search nodes", "node")).secret();
      Path key = Files.writeString(temp.resolve("key"), "mnemex_nobody_" + "x".repeat(43));
      builder.applyGarden();
      for (int i = 0; i < 3; i++) {
        assertThat(finds(admin, "fern shade")).isTrue();
      }
      RunningService.await(() -> counted(admin, "fern shade") == 3);
      try (RunningService node = node(builder, key)) {
        RunningService.await(
            () -> {
              var told = node.client.store().builder();
              return told != null
                  && String.valueOf(told.problem()).contains("answers with status 401");
            });
        assertThat(admin.nodes()).isEmpty();
        Files.writeString(key, secret);
        RunningService.await(() -> SearchNodesTest.isReady(node));

        note("waterwheel");
        RunningService.await(() -> finds(node.client, "waterwheel"));
        RunningService.await(() -> states(admin).equals(List.of(NODE + " here")));
        RunningService.await(() -> isAsPublished(admin));

        // What is searched for elsewhere is offered here, too.
        RunningService.await(
            () ->
                node.client.suggest(ENDPOINT, "fern sh", 5).stream()
                    .anyMatch(one -> one.from().equals("searched")));

        // Each once, whatever is told again meanwhile.
        for (int i = 0; i < 3; i++) {
          assertThat(finds(node.client, "lady fern")).isTrue();
        }
        RunningService.await(() -> counted(admin, "lady fern") == 3);
        assertOnlyReports(builder, secret);

        // Another run of the builder knows nothing of what the node knows.
        builder.kill();
        RunningService.await(
            () -> Objects.requireNonNull(node.client.store().builder()).problem() != null);
        assertThat(finds(node.client, "lady fern")).isTrue();
        builder.restart();
        note("sundial");
        RunningService.await(() -> finds(node.client, "sundial"));
        RunningService.await(() -> counted(admin, "lady fern") == 4);
        RunningService.await(() -> states(admin).equals(List.of(NODE + " here")));
        node.stop();
        assertThat(admin.nodes()).isEmpty();
      }
    }
  }

  private static boolean isAsPublished(MnemexClient builder) {
    NodeEntry node = builder.nodes().getFirst();
    return node.problem() == null
        && node.editions().size() == 1
        && node.editions().getFirst().index().equals("plants")
        && node.editions().getFirst().lagMillis() != null;
  }

  private static void assertOnlyReports(RunningService builder, String secret) {
    String authorization = "Bearer " + secret;
    for (String path : List.of("/api/nodes", "/api/store", "/api/indexes", "/search/" + ENDPOINT)) {
      assertThat(builder.send("get", path, "", "Authorization", authorization).statusCode())
          .as(path)
          .isEqualTo(403);
    }
    String report = "{\"store\": {\"editions\": []}}";
    String[] json = {"Authorization", authorization, "Content-Type", "application/json"};
    for (String name : List.of("-", "fern%20house", "f".repeat(101))) {
      assertThat(builder.send("post", "/api/nodes/" + name, report, json).statusCode())
          .as(name)
          .isEqualTo(400);
    }
    for (String wrong :
        List.of(
            "{}",
            "[]",
            "{\"store\": {\"editions\": []}, \"counts\": {\"run\": \"a b\", \"number\": 1}}",
            "{\"store\": {\"editions\": []}, \"counts\": {\"run\": \"a\", \"number\": 1,"
                + " \"counts\": {\"searched\": [null], \"facets\": [], \"opened\": []}}}")) {
      assertThat(builder.send("post", "/api/nodes/other", wrong, json).statusCode())
          .as(wrong)
          .isEqualTo(400);
    }
  }
}
