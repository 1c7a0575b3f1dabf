package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import io.kubernetes.client.openapi.models.V1ConfigMap;
import io.kubernetes.client.openapi.models.V1Deployment;
import io.kubernetes.client.openapi.models.V1PodDisruptionBudget;
import io.kubernetes.client.openapi.models.V1Service;
import io.kubernetes.client.openapi.models.V1StatefulSet;
import io.kubernetes.client.openapi.models.V2HorizontalPodAutoscaler;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.MnemexClient;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What runs a builder and its search nodes elsewhere fits the programs that it starts. */
class ClusterFilesTest {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final Pattern IMAGE_SETTING = Pattern.compile("([A-Z_]+)=(\\S+)");

  @TempDir private Path temp;

  /** Reads an object as its kind is defined, and refuses whatever that does not know. */
  private interface Kind {
    Object read(String json) throws IOException;
  }

  private static final Map<String, Kind> KINDS =
      Map.of(
          "ConfigMap", V1ConfigMap::fromJson,
          "StatefulSet", V1StatefulSet::fromJson,
          "Deployment", V1Deployment::fromJson,
          "Service", V1Service::fromJson,
          "PodDisruptionBudget", V1PodDisruptionBudget::fromJson,
          "HorizontalPodAutoscaler", V2HorizontalPodAutoscaler::fromJson);

  private static String text(String file) throws IOException {
    return Files.readString(RunningService.root().resolve("packaging").resolve(file));
  }

  /** The objects of a file, by kind and name. */
  private static Map<String, JsonNode> objects(String yaml) {
    Map<String, JsonNode> objects = new HashMap<>();
    for (Object one : new Load(LoadSettings.builder().build()).loadAllFromString(yaml)) {
      JsonNode object = JSON.valueToTree(one);
      objects.put(
          object.get("kind").asString() + " " + object.at("/metadata/name").asString(), object);
    }
    return objects;
  }

  private static void check(JsonNode object) throws IOException {
    KINDS.get(object.get("kind").asString()).read(object.toString());
  }

  @Test
  void objectsAreAsTheirKindsAreDefined() throws IOException {
    String yaml = text("cluster/kubernetes.yaml");
    Map<String, JsonNode> objects = objects(yaml);
    assertThat(objects).hasSize(7);
    for (JsonNode object : objects.values()) {
      check(object);
    }
    for (String wrong :
        List.of(
            yaml.replace("periodSeconds", "everySeconds"),
            yaml.replace("serviceName:", "service:"),
            yaml.replace("minAvailable: 1", "minAvailable: [1]"),
            yaml.replace("maxReplicas: 8", "maxReplica: 8"))) {
      assertThatThrownBy(
              () -> {
                for (JsonNode object : objects(wrong).values()) {
                  check(object);
                }
              })
          .isInstanceOf(RuntimeException.class);
    }
  }

  @Test
  void namesOfOneObjectAreThoseOfAnother() throws IOException {
    Map<String, JsonNode> objects = objects(text("cluster/kubernetes.yaml"));
    JsonNode builder = objects.get("StatefulSet mnemex-builder");
    JsonNode search = objects.get("Deployment mnemex-search");
    assertThat(objects).containsKey("Service " + builder.at("/spec/serviceName").asString());
    assertThat(builder.at("/spec/replicas").asInt()).isEqualTo(1);
    assertThat(search.at("/spec").has("replicas")).as("the autoscaler's").isFalse();
    JsonNode target =
        objects.get("HorizontalPodAutoscaler mnemex-search").at("/spec/scaleTargetRef");
    assertThat(target.get("kind").asString() + " " + target.get("name").asString())
        .isEqualTo("Deployment mnemex-search");
    for (JsonNode workload : List.of(builder, search)) {
      JsonNode labels = workload.at("/spec/template/metadata/labels");
      assertThat(workload.at("/spec/selector/matchLabels")).isEqualTo(labels);
      String part = labels.get("part").asString();
      assertThat(objects.get("Service mnemex-" + part).at("/spec/selector")).isEqualTo(labels);
      JsonNode container = workload.at("/spec/template/spec/containers/0");
      assertThat(container.at("/envFrom/0/configMapRef/name").asString()).isEqualTo("mnemex");
      List<String> volumes = new ArrayList<>();
      workload
          .at("/spec/template/spec/volumes")
          .forEach(v -> volumes.add(v.get("name").asString()));
      workload
          .at("/spec/volumeClaimTemplates")
          .forEach(v -> volumes.add(v.at("/metadata/name").asString()));
      List<String> mounted = new ArrayList<>();
      container.get("volumeMounts").forEach(v -> mounted.add(v.get("name").asString()));
      assertThat(mounted).containsExactlyInAnyOrderElementsOf(volumes);
    }
    assertThat(objects.get("PodDisruptionBudget mnemex-search").at("/spec/selector/matchLabels"))
        .isEqualTo(search.at("/spec/selector/matchLabels"));
  }

  /** What a container finds in its environment. */
  private static Map<String, String> environment(Map<String, JsonNode> objects, String workload)
      throws IOException {
    Map<String, String> environment = new HashMap<>();
    for (String line : text("Containerfile").lines().filter(l -> l.startsWith("ENV ")).toList()) {
      Matcher setting = IMAGE_SETTING.matcher(line);
      while (setting.find()) {
        environment.put(setting.group(1), setting.group(2));
      }
    }
    objects
        .get("ConfigMap mnemex")
        .get("data")
        .properties()
        .forEach(one -> environment.put(one.getKey(), one.getValue().asString()));
    objects
        .get(workload)
        .at("/spec/template/spec/containers/0/env")
        .forEach(one -> environment.put(one.get("name").asString(), one.get("value").asString()));
    return environment;
  }

  @Test
  void theirEnvironmentStartsABuilderAndANode() throws Exception {
    KeyPair signing = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
    Map<String, String> files =
        Map.of(
            "first-key",
            RunningService.FIRST_KEY,
            "store-secret",
            S3Server.SECRET,
            "signing-key.pem",
            SearchNodesTest.pem("PRIVATE KEY", signing.getPrivate()),
            "signer.pem",
            SearchNodesTest.pem("PUBLIC KEY", signing.getPublic()));
    Path secrets = Files.createDirectory(temp.resolve("run"));
    for (Map.Entry<String, String> file : files.entrySet()) {
      Files.writeString(secrets.resolve(file.getKey()), file.getValue());
    }
    Map<String, JsonNode> objects = objects(text("cluster/kubernetes.yaml"));
    List<Map<String, String>> environments = new ArrayList<>();
    for (String workload : List.of("StatefulSet mnemex-builder", "Deployment mnemex-search")) {
      Map<String, String> environment = environment(objects, workload);
      environment.replaceAll((name, value) -> value.replace("/run/mnemex", secrets.toString()));
      environment.put("MNEMEX_DATA", "data");
      environments.add(environment);
    }
    Path key = temp.resolve("node-key");
    environments.getLast().put("MNEMEX_NODE_KEYFILE", key.toString());
    GardenFiles.create(temp, 100);
    Path nodeFolder = Files.createDirectory(temp.resolve("node"));
    try (S3Server server = S3Server.start("mnemex", "mnemex");
        RunningService builder =
            RunningService.inContainer(
                temp, at(server, environments.getFirst()), RunningService.FIRST_KEY);
        RunningService node =
            RunningService.inContainer(
                nodeFolder, at(server, near(builder, environments.getLast())), null)) {
      builder.applyGarden();
      RunningService.await(() -> SearchNodesTest.isReady(node));
      assertThat(SearchNodesTest.search(node, "Bearer " + RunningService.FIRST_KEY)).isEqualTo(200);
      assertThat(node.get("/search/plant-search").statusCode()).isEqualTo(401);
      JsonNode store =
          JSON.readTree(
              node.send(
                      "get",
                      "/api/store",
                      "",
                      "Authorization",
                      "Bearer " + RunningService.FIRST_KEY)
                  .body());
      assertThat(store.get("place").asString())
          .isEqualTo("s3://mnemex/garden/ at " + server.endpoint);
      assertThat(store.at("/builder/problem").asString()).contains("the file of the key for it");
      MnemexClient admin = builder.client;
      Files.writeString(key, admin.access().create(KeyRequest.of("search nodes", "node")).secret());
      RunningService.await(() -> admin.nodes().size() == 1);
    }
  }

  private static Map<String, String> near(RunningService builder, Map<String, String> environment) {
    assertThat(environment).containsEntry("MNEMEX_NODE_BUILDER", "http://mnemex-builder");
    environment.put("MNEMEX_NODE_BUILDER", builder.url.toString());
    return environment;
  }

  private static Map<String, String> at(S3Server server, Map<String, String> environment) {
    environment.put("MNEMEX_STORE_ENDPOINT", server.endpoint);
    return environment;
  }
}
