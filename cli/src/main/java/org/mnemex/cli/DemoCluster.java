package org.mnemex.cli;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * The services of a demo: the one with the console, which builds shard 0; search nodes on the ports
 * after its own; and on those after them the builders of other shards.
 */
final class DemoCluster implements AutoCloseable {
  private static final String LOOPBACK = "http://127.0.0.1:";

  /** At how many nodes each shard is, if there are more nodes than that. */
  private static final int REPLICAS = 2;

  private final Path folder;
  private final int port;
  private final int nodes;
  private final int shards;
  private final List<Process> processes = new ArrayList<>();

  /**
   * @param folder the demo's data folder
   * @param port of the service with the console
   * @param nodes how many search nodes there are
   * @param shards by how many builders the index is shared, from 1
   */
  DemoCluster(Path folder, int port, int nodes, int shards) {
    // A data folder keeps its shard, so one without shards goes on beside those with some.
    this.folder =
        shards == 1 ? folder.toAbsolutePath() : folder.toAbsolutePath().resolve("shards-" + shards);
    this.port = port;
    this.nodes = nodes;
    this.shards = shards;
  }

  /** Where a builder writes its log. */
  Path log(int shard) {
    return data(shard).resolve("service.log");
  }

  private Path data(int shard) {
    return shards == 1 ? folder : folder.resolve("shard-" + shard);
  }

  /** Settings of a builder. */
  List<String> settings(int shard) throws IOException {
    List<String> settings = new ArrayList<>();
    if (nodes > 0) {
      settings.addAll(storeSettings());
    }
    if (shards > 1) {
      settings.add("--mnemex.shard.number=" + shard);
      settings.add("--mnemex.shard.of=" + shards);
    }
    settings.add("--server.port=" + builder(shard).getPort());
    settings.add("--mnemex.data=" + data(shard));
    return settings;
  }

  private List<String> storeSettings() throws IOException {
    Path store = Files.createDirectories(folder.resolve("store"));
    return List.of("--mnemex.store.kind=folder", "--mnemex.store.folder=" + store);
  }

  /**
   * Starts the builders of all shards but the first.
   *
   * @param common settings that all services have in common
   * @param environment variables that definitions need
   */
  void startBuilders(List<String> common, Map<String, String> environment) throws IOException {
    for (int shard = 1; shard < shards; shard++) {
      List<String> arguments = new ArrayList<>(common);
      arguments.addAll(settings(shard));
      processes.add(ServiceProcess.start(arguments, log(shard), environment));
    }
  }

  /**
   * Starts the search nodes.
   *
   * @param common settings that all services have in common, and those of nodes
   */
  void startNodes(List<String> common) throws IOException {
    Path placement =
        isPlaced() ? Files.writeString(folder.resolve("placement.yaml"), placement()) : null;
    for (int number = 1; number <= nodes; number++) {
      Path data = folder.resolve("node-" + number);
      List<String> arguments = new ArrayList<>(common);
      arguments.addAll(storeSettings());
      arguments.addAll(
          List.of(
              "--mnemex.role=search",
              "--mnemex.node.name=node-" + number,
              "--mnemex.node.builder=" + builder(0),
              "--mnemex.data=" + data,
              "--server.port=" + node(number).getPort()));
      if (placement != null) {
        arguments.add("--mnemex.node.placement=" + placement);
      }
      processes.add(ServiceProcess.start(arguments, data.resolve("service.log"), Map.of()));
    }
  }

  /** Whether each node has some of the shards only. */
  private boolean isPlaced() {
    return shards > 1 && nodes > REPLICAS;
  }

  /** Each shard at nodes one after another. */
  private String placement() {
    StringBuilder text = new StringBuilder("nodes:\n");
    for (int number = 1; number <= nodes; number++) {
      List<Integer> own = new ArrayList<>();
      for (int shard = 0; shard < shards; shard++) {
        if (Math.floorMod(number - 1 - shard, nodes) < REPLICAS) {
          own.add(shard);
        }
      }
      text.append(
          "  - {name: node-%d, url: '%s', shards: %s}%n".formatted(number, node(number), own));
    }
    return text.toString();
  }

  /** The address of the builder of a shard. */
  URI builder(int shard) {
    return at(shard == 0 ? 0 : nodes + shard);
  }

  private URI node(int number) {
    return at(number);
  }

  private URI at(int place) {
    return URI.create(LOOPBACK + (port + place));
  }

  /** The address that answers searches of the whole index. */
  URI searched() {
    return shards == 1 ? builder(0) : node(1);
  }

  /** What to try. */
  String explained() {
    StringBuilder text = new StringBuilder("Search nodes follow what is published:\n\n");
    for (int number = 1; number <= nodes; number++) {
      text.append(
          "  MNEMEX_URL=%s ./mnemex search plant-search shade fern%n".formatted(node(number)));
    }
    text.append("  MNEMEX_URL=%s ./mnemex store%n  ./mnemex nodes%n".formatted(node(1)));
    if (isPlaced()) {
      text.append(
          "%nEach node has some of the shards, as %s says, and asks the others for the rest.%n"
              .formatted(folder.resolve("placement.yaml")));
    }
    if (shards > 1) {
      text.append("%nEach shard of the index has a builder:%n%n".formatted());
      for (int shard = 0; shard < shards; shard++) {
        text.append("  MNEMEX_URL=%s ./mnemex status%n".formatted(builder(shard)));
      }
    }
    return text.toString();
  }

  @Override
  public void close() {
    processes.forEach(Process::destroy);
    processes.forEach(ServiceProcess::stop);
  }
}
