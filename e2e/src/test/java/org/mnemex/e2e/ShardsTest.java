package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.Key;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;
import org.mnemex.client.StoreStatus;
import org.mnemex.garden.Gardener;

/**
 * Builders that share an index, each with some of its records, and a search node that finds all of
 * them: it answers as a single machine that follows the same database.
 */
class ShardsTest {
  private static final int ACCESSIONS = 400;
  private static final String SHARD = "--mnemex.shard.number=";
  private static final String OF = "--mnemex.shard.of=";

  @TempDir private Path temp;

  private Path garden;

  @BeforeEach
  void makeFolders() throws Exception {
    Files.createDirectory(temp.resolve("store"));
    garden = GardenFiles.create(temp, ACCESSIONS);
  }

  /** Works in the folder of the garden, with data of its own. */
  private RunningService service(String data, String... settings) throws IOException {
    return RunningService.configured(
        temp,
        Stream.concat(Stream.of("--mnemex.data=" + temp.resolve(data)), Stream.of(settings))
            .toArray(String[]::new));
  }

  private RunningService sharing(String data, String... settings) throws IOException {
    return service(
        data,
        Stream.concat(
                Stream.of(
                    "--mnemex.store.kind=folder", "--mnemex.store.folder=" + temp.resolve("store")),
                Stream.of(settings))
            .toArray(String[]::new));
  }

  private RunningService builder(int shard, int of, String... more) throws IOException {
    return sharing(
        "shard-" + shard,
        Stream.concat(Stream.of(SHARD + shard, OF + of), Stream.of(more)).toArray(String[]::new));
  }

  private RunningService node(String... more) throws IOException {
    return sharing(
        "node",
        Stream.concat(Stream.of("--mnemex.role=search"), Stream.of(more)).toArray(String[]::new));
  }

  private String keyFile(String label, Key key) throws IOException {
    return Files.writeString(temp.resolve(label), SearchNodesTest.pem(label, key)).toString();
  }

  private static int documents(MnemexClient client) {
    return Math.toIntExact(Objects.requireNonNull(client.index("plants").live()).documents());
  }

  private static String problem(RunningService service) {
    return String.valueOf(service.client.store().problem());
  }

  @Test
  void aNodeAnswersAsIfOneMachineHadAllRecords() throws Exception {
    try (RunningService whole = service("whole");
        RunningService first = builder(0, 2);
        RunningService second = builder(1, 2);
        RunningService node = node();
        Gardener gardener = new Gardener(garden, 11, Clock.systemUTC())) {
      for (RunningService each : List.of(whole, first, second)) {
        each.applyGarden();
      }
      RunningService.await(() -> SearchNodesTest.isReady(node));
      for (int round = 0; round < 3; round++) {
        for (int i = 0; i < 30; i++) {
          gardener.change();
        }
        SearchNodesTest.assertSameAnswers(whole, node);
      }
      assertThat(documents(first.client)).isBetween(ACCESSIONS / 4, ACCESSIONS);
      assertThat(documents(first.client) + documents(second.client))
          .isEqualTo(documents(whole.client));
      for (RunningService each : List.of(whole, first, second)) {
        assertThat(AuditTest.audit(each, "plants", false).clean()).isTrue();
      }
      assertThat(node.client.store().shards()).isEqualTo(2);
      assertThat(node.client.store().editions().stream().map(StoreStatus.Edition::shard))
          .containsExactly(0, 1);

      // A part of the records is no answer.
      HttpResponse<String> refused = first.get("/search/plant-search?q=fern");
      assertThat(refused.statusCode()).isEqualTo(421);
      assertThat(refused.body()).contains("/problems/one-shard", "builds shard 0 of 2");
      List<Integer> traced = new ArrayList<>();
      for (RunningService each : List.of(first, second)) {
        HttpResponse<String> trace = each.get("/api/indexes/plants/records/QB-00018");
        traced.add(trace.statusCode());
        if (trace.statusCode() == 421) {
          assertThat(trace.body()).contains("ask the builder of that shard");
        }
      }
      assertThat(traced).containsExactlyInAnyOrder(200, 421);
    }
  }

  @Test
  void whatIsDecidedAtTheFirstBuilderHoldsForAll() throws Exception {
    Map<String, String> changed =
        GardenFiles.edited(
            "plants.yaml", text -> text.replace("analyser: german", "analyser: words"));
    KeyPair pair = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
    String signs = "--mnemex.store.signing-key-file=" + keyFile("PRIVATE KEY", pair.getPrivate());
    String believes = "--mnemex.store.signer-file=" + keyFile("PUBLIC KEY", pair.getPublic());
    try (RunningService first = builder(0, 2, signs);
        RunningService node = node(believes)) {
      first.applyGarden();
      RunningService.await(() -> problem(node).contains("nothing is published"));
      assertThat(SearchNodesTest.isReady(node)).isFalse();
      try (RunningService second = builder(1, 2, signs)) {
        RunningService.await(() -> SearchNodesTest.isReady(node));
        RunningService.await(() -> node.client.store().problem() == null);
        assertThatThrownBy(() -> second.client.apply(changed))
            .hasMessageContaining("apply them there");
        assertThat(edition(node)).isEqualTo(1);

        first.client.apply(changed, new ApplyOptions(false, null, true));
        for (RunningService each : List.of(first, second)) {
          RunningService.await(() -> isWaiting(each));
        }
        assertThat(edition(node)).isEqualTo(1);
        first.client.promote("plants");
        RunningService.await(() -> edition(node) == 2);
        first.client.rollback("plants");
        RunningService.await(() -> edition(node) == 1);
        assertThat(Objects.requireNonNull(second.client.index("plants").live()).number())
            .isEqualTo(1);
      }
      // It goes on with what it has of a builder that is away, also after a restart.
      long found = found(node);
      assertThat(found).isPositive();
      RunningService.await(() -> problem(node).contains("the builder of shard 1 of 2"));
      assertThat(found(node)).isEqualTo(found);
    }
    try (RunningService again = node(believes)) {
      RunningService.await(() -> SearchNodesTest.isReady(again));
      assertThat(found(again)).isPositive();
    }
  }

  private void mnemex(RunningService service, String... arguments) throws Exception {
    CommandLineTest.done(service.url.toString(), temp, arguments);
  }

  /** Each builder is backed up by itself, at a moment of its own. */
  @Test
  void buildersGoOnFromTheirBackups() throws Exception {
    Gardener gardener = new Gardener(garden, 11, Clock.systemUTC());
    try (gardener;
        RunningService whole = service("whole");
        RunningService node = node()) {
      whole.applyGarden();
      try (RunningService first = builder(0, 2);
          RunningService second = builder(1, 2)) {
        first.applyGarden();
        second.applyGarden();
        RunningService.await(() -> SearchNodesTest.isReady(node));
        mnemex(first, "backup", "backups-0");
        for (int i = 0; i < 20; i++) {
          gardener.change();
        }
        mnemex(second, "backup", "backups-1");
        for (int i = 0; i < 20; i++) {
          gardener.change();
        }
        SearchNodesTest.assertSameAnswers(whole, node);
      }
      mnemex(node, "restore", "backups-0", "--data", "restored-0");
      mnemex(node, "restore", "backups-1", "--data", "restored-1");
      for (int i = 0; i < 20; i++) {
        gardener.change();
      }
      try (RunningService first = sharing("restored-0", SHARD + "0", OF + "2");
          RunningService second = sharing("restored-1", SHARD + "1", OF + "2")) {
        SearchNodesTest.assertSameAnswers(whole, node);
        for (RunningService each : List.of(first, second)) {
          AuditTest.awaitClean(each);
        }
      }
    }
  }

  @Test
  void nodesWithSomeShardsEachAnswerAsOneWithAll() throws Exception {
    Path placement = temp.resolve("placement.yaml");
    place(placement);
    try (RunningService whole = service("whole");
        RunningService first = builder(0, 2);
        RunningService second = builder(1, 2);
        RunningService north = placed("north", placement);
        RunningService south = placed("south", placement);
        RunningService front = placed("front", placement);
        Gardener gardener = new Gardener(garden, 11, Clock.systemUTC())) {
      for (RunningService each : List.of(whole, first, second)) {
        each.applyGarden();
      }
      RunningService.await(() -> problem(front).contains("do not have all shards of plants"));
      assertThat(SearchNodesTest.isReady(front)).isFalse();
      place(placement, at("north", north, 0), at("south", south, 1), at("front", front));
      for (RunningService node : List.of(north, south, front)) {
        RunningService.await(() -> SearchNodesTest.isReady(node));
      }
      for (int round = 0; round < 3; round++) {
        for (int i = 0; i < 30; i++) {
          gardener.change();
        }
        for (RunningService node : List.of(north, south, front)) {
          SearchNodesTest.assertSameAnswers(whole, node);
        }
      }
      first.client.apply(
          Map.of(
              "some.yaml",
              "endpoint: some-search\nindex: plants\nshow: [name]\nmissing_shards: leave_out\n"));
      RunningService.await(() -> search(front, "some-search").statusCode() == 200);
      HttpResponse<String> complete = search(front, "some-search");
      assertThat(complete.body()).doesNotContain("missingShards");
      assertThat(complete.headers().firstValue("ETag")).isPresent();

      // One shard is gone: no answer, rather than a part of one, unless an endpoint wants it.
      long found = found(front);
      south.kill();
      RunningService.await(() -> ferns(front).statusCode() == 503);
      assertThat(ferns(front).body()).contains("/problems/shard-away", "shard 1");
      assertThat(problem(front)).contains("no node has one of the shards of plants");
      SearchAnswer part = front.client.search("some-search", SearchQuery.words(""));
      assertThat(part.missingShards()).containsExactly(1);
      assertThat(part.total()).isEqualTo(new SearchAnswer.Total(documents(first.client), false));
      HttpResponse<String> again = search(front, "some-search");
      assertThat(again.body()).contains("\"missingShards\":[1]").doesNotContain("\"id\"");
      assertThat(again.headers().firstValue("ETag")).isEmpty();
      assertThat(front.get("/search/some-search/suggest?q=f").body())
          .contains("\"missingShards\":[1]");
      // Of a record nobody knows whether it is in the shard that is gone.
      assertThat(front.get("/search/some-search/records?key=QB-00018").statusCode()).isEqualTo(503);
      assertThat(front.client.store().nodes())
          .anyMatch(node -> node.name().equals("south") && node.problem() != null);
      // It moves to another node, and nobody is restarted.
      place(placement, at("north", north, 0, 1), at("front", front));
      RunningService.await(() -> ferns(front).statusCode() == 200);
      assertThat(found(front)).isEqualTo(found);
      assertThat(search(front, "some-search").body()).doesNotContain("missingShards");
    }
  }

  @Test
  void nodesWithSomeShardsEachMoveToAnotherEditionWithoutAGap() throws Exception {
    KeyPair pair = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
    String signs = "--mnemex.store.signing-key-file=" + keyFile("PRIVATE KEY", pair.getPrivate());
    Path placement = temp.resolve("placement.yaml");
    place(placement);
    List<SearchNodesTest.Searching> searching = new ArrayList<>();
    try (RunningService first = builder(0, 2, signs);
        RunningService second = builder(1, 2, signs);
        RunningService north = placed("north", placement);
        RunningService south = placed("south", placement)) {
      place(placement, at("north", north, 0), at("south", south, 1));
      first.applyGarden();
      second.awaitLive("plants");
      for (RunningService node : List.of(north, south)) {
        RunningService.await(() -> SearchNodesTest.isReady(node));
        searching.add(new SearchNodesTest.Searching(node));
      }
      first.client.apply(
          GardenFiles.edited(
              "plants.yaml", text -> text.replaceFirst("analyser: english", "analyser: words")));
      for (SearchNodesTest.Searching one : searching) {
        RunningService.await(() -> one.hasSeen(1, 2));
      }
      first.client.rollback("plants");
      for (SearchNodesTest.Searching one : searching) {
        RunningService.await(() -> one.hasSeen(1, 2, 1));
      }
      // What each of them holds has to be there until nobody searches.
      for (SearchNodesTest.Searching one : searching) {
        one.close();
      }
    }
    for (SearchNodesTest.Searching one : searching) {
      assertThat(one.failures).isEmpty();
      assertThat(one.editions).containsExactly(1, 2, 1);
    }
  }

  private RunningService placed(String name, Path placement) throws IOException {
    return sharing(
        name,
        "--mnemex.role=search",
        "--mnemex.node.name=" + name,
        "--mnemex.node.placement=" + placement);
  }

  private static HttpResponse<String> ferns(RunningService node) {
    return search(node, "plant-search");
  }

  private static HttpResponse<String> search(RunningService node, String endpoint) {
    try {
      return node.get("/search/" + endpoint + "?q=fern");
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  /** A node as the placement lists it. */
  private static String at(String name, RunningService node, Integer... shards) {
    return "{name: %s, url: '%s', shards: %s}".formatted(name, node.url, List.of(shards));
  }

  private static void place(Path placement, String... nodes) throws IOException {
    Files.writeString(placement, "nodes: [" + String.join(", ", nodes) + "]");
  }

  private static boolean isWaiting(RunningService builder) {
    var next = builder.client.index("plants").next();
    return next != null && next.state().equals("ready");
  }

  private static int edition(RunningService node) {
    return node.client.search("plant-search", SearchQuery.words("fern")).asOf().edition();
  }

  private static long found(RunningService node) {
    return node.client.search("plant-search", SearchQuery.words("fern")).found();
  }

  @Test
  void whatIsBuiltInShardsStaysSo() throws Exception {
    try (RunningService first = builder(0, 2)) {
      first.applyGarden();
      RunningService.await(() -> !first.client.store().editions().isEmpty());
    }
    assertThatThrownBy(() -> builder(0, 3).close())
        .hasMessageContaining("this data folder has shard 0 of 2")
        .hasMessageContaining("asks for 0 of 3");
    try (RunningService other = sharing("other")) {
      other.applyGarden();
      RunningService.await(() -> problem(other).contains("is divided into 2 shards"));
    }
    assertThatThrownBy(() -> service("alone", "--mnemex.shard.number=0", "--mnemex.shard.of=2"))
        .hasMessageContaining("needs a store");
  }
}
