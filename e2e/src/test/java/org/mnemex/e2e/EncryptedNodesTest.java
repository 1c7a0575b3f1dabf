package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.NodeEntry;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;

/** Machines that call each other by TLS, with certificates of an authority of their own. */
class EncryptedNodesTest {
  private static final String TRUST = "--mnemex.node.ssl-bundle=inside";

  @TempDir private Path temp;

  private RunningService service(String name, Certificate certificate, String... more)
      throws IOException {
    List<String> settings =
        new ArrayList<>(
            List.of(
                "--mnemex.store.kind=folder", "--mnemex.store.folder=" + temp.resolve("store")));
    settings.addAll(List.of(more));
    return RunningService.encrypted(
        Files.createDirectories(temp.resolve(name)), certificate, settings.toArray(String[]::new));
  }

  private RunningService node(
      String name, Certificate certificate, RunningService builder, String... more)
      throws IOException {
    List<String> settings =
        new ArrayList<>(
            List.of(
                "--mnemex.role=search",
                "--mnemex.node.name=" + name,
                "--mnemex.node.builder=" + builder.url,
                "--mnemex.node.key-file=" + temp.resolve("key"),
                "--mnemex.node.placement=" + temp.resolve("placement.yaml")));
    settings.addAll(List.of(more));
    return service(name, certificate, settings.toArray(String[]::new));
  }

  @Test
  void whoKnowsTheAuthorityCallsTheOthers() throws Exception {
    Certificate certificate = Certificate.make(temp);
    String known =
        "--spring.ssl.bundle.pem.inside.truststore.certificate=" + certificate.authority();
    Path builderFolder = Files.createDirectories(temp.resolve("builder"));
    Files.createDirectory(temp.resolve("store"));
    Path placement = Files.writeString(temp.resolve("placement.yaml"), "nodes: []\n");
    GardenFiles.create(builderFolder, 100);
    try (RunningService builder = service("builder", certificate)) {
      Files.writeString(
          temp.resolve("key"),
          builder.client.access().create(KeyRequest.of("search nodes", "node")).secret());
      builder.applyGarden();
      try (RunningService north = node("north", certificate, builder, TRUST, known);
          RunningService front = node("front", certificate, builder, TRUST, known);
          RunningService stranger = node("stranger", certificate, builder)) {
        Files.writeString(
            placement,
            """
            nodes:
            - {name: north, url: %s, shards: [0]}
            - {name: front, url: %s, shards: []}
            - {name: stranger, url: %s, shards: []}
            """
                .formatted(north.url, front.url, stranger.url));
        RunningService.await(() -> ferns(front) >= 0);
        assertThat(ferns(front)).isEqualTo(ferns(builder)).isPositive();
        RunningService.await(
            () ->
                builder.client.nodes().stream()
                    .map(NodeEntry::name)
                    .toList()
                    .containsAll(List.of("north", "front")));
        // Whom it cannot recognise, it does not call.
        RunningService.await(
            () ->
                String.valueOf(stranger.client.store().builder()).contains("certification path")
                    && stranger.client.store().nodes().stream()
                        .anyMatch(
                            node -> String.valueOf(node.problem()).contains("certification path")));
        assertThat(ferns(stranger)).isNegative();
        assertThat(builder.client.nodes()).noneMatch(node -> node.name().equals("stranger"));
      }
      assertTheCommandLineKnowsToo(builder, certificate.authority());
    }
  }

  /** How many it finds; -1 if it cannot answer. */
  private static long ferns(RunningService service) {
    try {
      return service.client.search("plant-search", SearchQuery.words("fern")).found();
    } catch (ProblemException e) {
      return -1;
    }
  }

  private void assertTheCommandLineKnowsToo(RunningService builder, Path authority)
      throws Exception {
    String url = builder.url.toString();
    CommandLineTest.Outcome untrusted =
        CommandLineTest.run(url, temp, List.of("search", "plant-search", "fern"));
    assertThat(untrusted.exitCode()).isEqualTo(4);
    assertThat(untrusted.err()).contains("no secure connection to " + url, "--ca-file FILE");
    Path key = Files.writeString(temp.resolve("first.key"), RunningService.FIRST_KEY);
    assertThat(
            CommandLineTest.done(
                url,
                temp,
                "search",
                "plant-search",
                "fern",
                "--key-file",
                key.toString(),
                "--ca-file",
                authority.toString()))
        .contains("fern");
    CommandLineTest.Outcome wrong =
        CommandLineTest.run(url, temp, List.of("status", "--ca-file", key.toString()));
    assertThat(wrong.err()).contains("first.key");
    assertThat(wrong.exitCode()).isNotZero();
  }
}
