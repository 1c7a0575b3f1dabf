package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.Key;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.MnemexClient;
import org.mnemex.garden.Gardener;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/**
 * A builder and search nodes as processes: nodes answer as the builder does, one edition at a time,
 * also while the store or the builder is away; and of two builders one goes on.
 */
class SearchNodesTest {
  private static final int ACCESSIONS = 400;
  private static final JsonMapper JSON = JsonMapper.shared();

  /** What differs between two answers that are the same: names, times, and tails of scores. */
  private static final List<String> OF_THE_ANSWER = List.of("id", "millis", "next");

  private static final List<String> CALLS =
      List.of(
          "?q=fern",
          "?q=lady+fern&size=30&family=Dryopteridaceae",
          "?q=&size=50&sort=tallest",
          "?q=shade+moss&relax=20&size=10",
          "?q=fren",
          "?where=height_cm%20%3E%2050&size=20",
          "/suggest?q=wh",
          "/facets/genus?begins=p",
          "/records?key=QB-00001&key=QB-00017&key=QB-99999",
          "/page");

  @TempDir private Path temp;

  private static final String KEY = "quillmere";

  /** Settings of a store in a folder. */
  private String[] folderStore(String... more) {
    return Stream.concat(
            Stream.of("--mnemex.store.kind=folder", "--mnemex.store.folder=" + store()),
            Stream.of(more))
        .toArray(String[]::new);
  }

  private Path store() {
    return temp.resolve("store");
  }

  @BeforeEach
  void makeStore() throws IOException {
    Files.createDirectory(store());
  }

  private Path folder(String name) throws IOException {
    return Files.createDirectories(temp.resolve(name));
  }

  private RunningService node(String name, String... more) throws IOException {
    String[] settings =
        Stream.concat(Stream.of("--mnemex.role=search"), Stream.of(more)).toArray(String[]::new);
    return RunningService.configured(folder(name), folderStore(settings));
  }

  /** An answer without what two answers that are the same differ in. */
  private static JsonNode answer(HttpResponse<String> response) {
    assertThat(response.statusCode()).as(response.body()).isEqualTo(200);
    JsonNode answer = JSON.readTree(response.body());
    if (answer instanceof ObjectNode object) {
      object.remove(OF_THE_ANSWER);
      if (object.get("asOf") instanceof ObjectNode asOf) {
        asOf.remove("time");
      }
    }
    return answer;
  }

  private static JsonNode store(RunningService service) throws IOException, InterruptedException {
    return JSON.readTree(service.get("/api/store").body());
  }

  private static String position(MnemexClient client) {
    return Objects.requireNonNull(Objects.requireNonNull(client.index("plants").live()).position());
  }

  /** Waits until a node is as far as the builder is now, then compares all answers. */
  static void assertSameAnswers(RunningService builder, RunningService node)
      throws IOException, InterruptedException {
    builder.awaitTrue("plants");
    String position = position(builder.client);
    answer(node.get("/search/plant-search?q=fern&true_for=" + position));
    // When something was true for the last time reaches nodes a moment later.
    RunningService.await(() -> differing(builder, node).isEmpty());
  }

  private static List<String> differing(RunningService builder, RunningService node) {
    List<String> differing = new ArrayList<>();
    try {
      for (String call : CALLS) {
        JsonNode there = answer(node.get("/search/plant-search" + call));
        if (!there.equals(answer(builder.get("/search/plant-search" + call)))) {
          differing.add(call);
        }
      }
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
    return differing;
  }

  @Test
  void nodesAnswerAsTheBuilderDoes() throws Exception {
    Path secret = Files.writeString(temp.resolve("secret"), S3Server.SECRET + "\n");
    S3Server server = S3Server.start(KEY, "herbarium");
    List<String> settings =
        List.of(
            "--mnemex.store.kind=s3",
            "--mnemex.store.endpoint=" + server.endpoint,
            "--mnemex.store.bucket=herbarium",
            "--mnemex.store.prefix=garden",
            "--mnemex.store.key-id=" + KEY,
            "--mnemex.store.secret-file=" + secret);
    List<String> nodeSettings = new ArrayList<>(settings);
    nodeSettings.add("--mnemex.role=search");
    Path garden = GardenFiles.create(folder("builder"), ACCESSIONS);
    try (server;
        RunningService builder =
            RunningService.configured(folder("builder"), settings.toArray(String[]::new));
        RunningService node =
            RunningService.configured(folder("node"), nodeSettings.toArray(String[]::new));
        Gardener gardener = new Gardener(garden, 5, Clock.systemUTC())) {
      assertThat(node.get("/api/health-and-metrics/health/readiness").statusCode()).isEqualTo(503);
      assertThat(node.get("/search/plant-search").statusCode()).isEqualTo(404);
      builder.applyGarden();
      RunningService.await(() -> isReady(node));
      for (int round = 0; round < 6; round++) {
        for (int i = 0; i < 20; i++) {
          gardener.change();
        }
        if (round == 3) {
          // Another definition of the same edition, and of the endpoint.
          builder.client.apply(
              GardenFiles.edited("plants.yaml", text -> text + "\nfreshest: 1s\n"));
        }
        assertSameAnswers(builder, node);
      }
      // A position goes on without a change in the index, and the node is as far soon.
      GardenFiles.run(garden, "INSERT INTO label (id, title) VALUES (9999, 'Nowhere yet')");
      assertSameAnswers(builder, node);
      // The node has no source that knows how its database writes positions.
      assertThat(status(node, "/search/plant-search?true_for=0/1")).isEqualTo(200);
      assertThat(status(node, "/search/plant-search?true_for=later")).isEqualTo(400);
      JsonNode published = store(builder);
      assertThat(published.get("place").asString())
          .isEqualTo("s3://herbarium/garden/ at " + server.endpoint);
      assertThat(published.has("problem")).isFalse();
      assertThat(store(node).get("editions").get(0).get("files"))
          .isEqualTo(published.get("editions").get(0).get("files"));
      HttpResponse<String> refused = node.get("/api/indexes");
      assertThat(refused.statusCode()).isEqualTo(421);
      assertThat(refused.body()).contains("/problems/search-node", "only answers searches");
      assertThat(node.get("/console/search").statusCode()).isEqualTo(421);
      assertThat(node.log() + builder.log()).doesNotContain(S3Server.SECRET);
    }
  }

  static boolean isReady(RunningService node) {
    try {
      return node.get("/api/health-and-metrics/health/readiness").statusCode() == 200;
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  /** Searches a node all the time, and notes which edition answers. */
  static final class Searching implements AutoCloseable {
    private final AtomicBoolean isOver = new AtomicBoolean();

    /** Each edition that answered, in order; once for as many answers as came one after another. */
    final List<Integer> editions = new CopyOnWriteArrayList<>();

    final List<Throwable> failures = new ArrayList<>();
    private final Thread thread;

    Searching(RunningService node) {
      thread =
          Thread.ofPlatform()
              .start(
                  () -> {
                    try {
                      while (!isOver.get()) {
                        JsonNode answer = answer(node.get("/search/plant-search?q=fern&size=1"));
                        int edition = answer.get("asOf").get("edition").asInt();
                        if (editions.isEmpty() || editions.getLast() != edition) {
                          editions.add(edition);
                        }
                        assertThat(answer.get("total").get("count").asInt()).isPositive();
                      }
                    } catch (Exception | AssertionError e) {
                      failures.add(e);
                    }
                  });
    }

    /** Whether these editions have answered; true as well when searching has come to an end. */
    boolean hasSeen(Integer... those) {
      return editions.equals(List.of(those)) || !thread.isAlive();
    }

    @Override
    public void close() throws InterruptedException {
      isOver.set(true);
      thread.join();
    }
  }

  @Test
  void aPromotionReachesNodesWithoutAGap() throws Exception {
    GardenFiles.create(folder("builder"), ACCESSIONS);
    Searching searching;
    try (RunningService builder = RunningService.configured(folder("builder"), folderStore());
        RunningService node = node("node")) {
      builder.applyGarden();
      RunningService.await(() -> isReady(node));
      searching = new Searching(node);
      try (searching) {
        // Stems instead of words: other files, so another edition.
        builder.client.apply(
            GardenFiles.edited(
                "plants.yaml", text -> text.replaceFirst("analyser: english", "analyser: words")));
        // What another caller sees may be ahead of an answer that is under way.
        RunningService.await(() -> searching.hasSeen(1, 2));
        builder.client.rollback("plants");
        RunningService.await(() -> searching.hasSeen(1, 2, 1));
      }
      assertSameAnswers(builder, node);
    }
    assertThat(searching.failures).isEmpty();
    assertThat(searching.editions).containsExactly(1, 2, 1);
  }

  @Test
  void nodesGoOnWithoutTheStoreAndMendTheirFiles() throws Exception {
    Path garden = GardenFiles.create(folder("builder"), ACCESSIONS);
    String[] told = {"--mnemex.conditions.store=100ms", "--mnemex.conditions.every=200ms"};
    try (RunningService builder = RunningService.configured(folder("builder"), folderStore(told));
        RunningService node = node("node", told);
        Gardener gardener = new Gardener(garden, 5, Clock.systemUTC())) {
      builder.applyGarden();
      RunningService.await(() -> isReady(node));
      assertSameAnswers(builder, node);

      Path away = temp.resolve("away");
      Files.move(store(), away);
      RunningService.await(() -> hasProblem(node) && hasProblem(builder));
      RunningService.await(() -> isTold(node, "is not there") && isTold(builder, "is not there"));
      assertThat(answer(node.get("/search/plant-search?q=fern"))).isNotEmpty();
      node.kill();
      node.restart();
      assertThat(answer(node.get("/search/plant-search?q=fern"))).isNotEmpty();
      assertThat(isReady(node)).isTrue();

      for (int i = 0; i < 20; i++) {
        gardener.change();
      }
      // Where a file system is not mounted, nothing is written in its place.
      assertThat(store()).doesNotExist();
      Files.move(away, store());
      RunningService.await(() -> !hasProblem(node) && !hasProblem(builder));
      assertSameAnswers(builder, node);

      builder.kill();
      RunningService.await(() -> isTold(node, "the builder has written nothing"));
      assertThat(answer(node.get("/search/plant-search?q=fern"))).isNotEmpty();
      builder.restart();

      // A byte of each file changes on the disk: the node says so or answers well, and mends it.
      node.kill();
      try (Stream<Path> files = Files.list(temp.resolve("node/mnemex-data/cache/files"))) {
        for (Path file : files.toList()) {
          byte[] bytes = Files.readAllBytes(file);
          bytes[bytes.length / 2] ^= 1;
          Files.write(file, bytes);
        }
      }
      node.restart();
      RunningService.await(() -> isReady(node));
      RunningService.await(() -> status(node, "/search/plant-search?q=fern&size=50") == 200);
      assertSameAnswers(builder, node);
    }
  }

  private static boolean isTold(RunningService service, String what) {
    return service.client.conditions().list().held().stream()
        .anyMatch(one -> one.condition().equals("store") && one.text().contains(what));
  }

  private static boolean hasProblem(RunningService service) {
    try {
      return store(service).has("problem");
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  private static int status(RunningService node, String path) {
    try {
      return node.get(path).statusCode();
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  @Test
  void ofTwoBuildersTheLaterGoesOn() throws Exception {
    Path garden = GardenFiles.create(folder("builder"), ACCESSIONS);
    try (RunningService builder = RunningService.configured(folder("builder"), folderStore())) {
      builder.applyGarden();
      RunningService.await(() -> hasPublished(builder));
      builder.stop();
      assertRefusedAsNode(folder("builder"));
      copy(folder("builder"), folder("copy"));
      builder.restart();
      RunningService.await(() -> hasPublished(builder));
      try (RunningService copy = RunningService.configured(folder("copy"), folderStore());
          RunningService node = node("node");
          Gardener gardener =
              new Gardener(
                  folder("copy").resolve(folder("builder").relativize(garden)),
                  5,
                  Clock.systemUTC())) {
        RunningService.await(() -> hasPublished(copy) && hasProblem(builder));
        assertThat(store(builder).get("problem").asString())
            .contains("another process", "publishes to the store", "this one has stopped");
        for (int i = 0; i < 20; i++) {
          gardener.change();
        }
        RunningService.await(() -> isReady(node));
        assertSameAnswers(copy, node);
        assertThat(store(copy).has("problem")).isFalse();
      }
    }
  }

  private static void copy(Path from, Path to) throws IOException {
    try (Stream<Path> all = Files.walk(from)) {
      for (Path one : all.filter(path -> !path.equals(from)).toList()) {
        Files.copy(one, to.resolve(from.relativize(one)));
      }
    }
  }

  private static boolean hasPublished(RunningService builder) {
    try {
      return store(builder).get("editions").size() == 1;
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  @Test
  void keysAreKnownToNodesTooAndOnlyWhatIsSignedIsBelieved() throws Exception {
    GardenFiles.create(folder("builder"), ACCESSIONS);
    KeyPair signing = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
    Path signer = written("PUBLIC KEY", signing.getPublic());
    try (RunningService builder =
            RunningService.secured(
                folder("builder"),
                folderStore(
                    "--mnemex.store.signing-key-file="
                        + written("PRIVATE KEY", signing.getPrivate())));
        RunningService node =
            node("node", "--mnemex.keys=true", "--mnemex.store.signer-file=" + signer)) {
      builder.applyGarden();
      RunningService.await(() -> isReady(node));
      String admin = "Bearer " + RunningService.FIRST_KEY;
      assertThat(node.log()).doesNotContain("The first key");
      assertThat(status(node, "/search/plant-search")).isEqualTo(401);
      JsonNode key =
          JSON.readTree(
              builder
                  .send(
                      "post",
                      "/api/keys",
                      "{\"name\": \"page\", \"right\": \"search\", \"endpoints\": [\"plant-search\"]}",
                      "Authorization",
                      admin)
                  .body());
      String page = "Bearer " + key.get("secret").asString();
      RunningService.await(() -> search(node, page) == 200);
      builder.send(
          "delete", "/api/keys/" + key.get("key").get("id").asString(), "", "Authorization", admin);
      RunningService.await(() -> search(node, page) == 401);
      assertForgedIsNotBelieved(node, admin);
    }
  }

  private void assertForgedIsNotBelieved(RunningService node, String admin) throws IOException {
    Path catalogue = store().resolve("catalogue");
    byte[] signed = Files.readAllBytes(catalogue);
    String content = new String(signed, StandardCharsets.UTF_8);
    // Without its signature, and with other definitions under it.
    for (String forged :
        List.of(
            content.substring(content.indexOf('\n') + 1),
            content.replace("plant-search", "other-search"))) {
      Files.writeString(catalogue, forged);
      RunningService.await(() -> problem(node, admin).contains("'catalogue' in the store"));
      assertThat(problem(node, admin)).contains("is not signed");
      assertThat(search(node, admin)).isEqualTo(200);
      Files.write(catalogue, signed);
      RunningService.await(() -> problem(node, admin).isEmpty());
    }
  }

  private static String problem(RunningService node, String authorization) {
    return JSON.readTree(node.send("get", "/api/store", "", "Authorization", authorization).body())
        .path("problem")
        .asString("");
  }

  private Path written(String label, Key key) throws IOException {
    return Files.writeString(temp.resolve(label), pem(label, key));
  }

  /** A key as RFC 7468 says. */
  static String pem(String label, Key key) {
    return "-----BEGIN %s-----\n%s\n-----END %s-----\n"
        .formatted(label, Base64.getMimeEncoder().encodeToString(key.getEncoded()), label);
  }

  static int search(RunningService node, String authorization) {
    return node.send("get", "/search/plant-search", "", "Authorization", authorization)
        .statusCode();
  }

  /** A search node has no definitions of its own. */
  private void assertRefusedAsNode(Path builderFolder) throws IOException, InterruptedException {
    List<String> command = new ArrayList<>(Packaged.service());
    command.addAll(List.of(folderStore("--mnemex.role=search", "--server.port=0")));
    Process wrong =
        new ProcessBuilder(command)
            .directory(builderFolder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(temp.resolve("wrong.log").toFile())
            .start();
    assertThat(wrong.waitFor(2, TimeUnit.MINUTES)).isTrue();
    assertThat(wrong.exitValue()).isNotZero();
    assertThat(Files.readString(temp.resolve("wrong.log")))
        .contains("this data folder has definitions of its own");
  }
}
