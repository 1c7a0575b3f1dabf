package org.mnemex.cli;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** Search nodes of the demo, on the ports after that of the service. */
final class DemoNodes implements AutoCloseable {
  private static final String LOOPBACK = "http://127.0.0.1:";

  private final Path folder;
  private final int port;
  private final List<Process> processes = new ArrayList<>();

  /**
   * @param folder the demo's data folder
   * @param port of the service
   */
  DemoNodes(Path folder, int port) {
    this.folder = folder.toAbsolutePath();
    this.port = port;
  }

  /** Settings of all that use the store, which is made. */
  List<String> storeSettings() throws IOException {
    Path store = Files.createDirectories(folder.resolve("store"));
    return List.of("--mnemex.store.kind=folder", "--mnemex.store.folder=" + store);
  }

  /**
   * Starts nodes.
   *
   * @param settings what they have in common with the service
   */
  void start(int count, List<String> settings) throws IOException {
    for (int number = 1; number <= count; number++) {
      Path data = folder.resolve("node-" + number);
      List<String> arguments = new ArrayList<>(settings);
      arguments.addAll(storeSettings());
      arguments.addAll(
          List.of(
              "--mnemex.role=search",
              "--mnemex.node.name=node-" + number,
              "--mnemex.node.builder=" + url(0),
              "--mnemex.data=" + data,
              "--server.port=" + (port + number)));
      processes.add(ServiceProcess.start(arguments, data.resolve("service.log"), Map.of()));
    }
  }

  /** What to try. */
  String explained() {
    StringBuilder text = new StringBuilder("Search nodes follow what the service publishes:\n\n");
    for (int number = 1; number <= processes.size(); number++) {
      text.append(
          "  MNEMEX_URL=%s ./mnemex search plant-search shade fern%n".formatted(url(number)));
    }
    return text.append("  MNEMEX_URL=%s ./mnemex store%n  ./mnemex nodes%n".formatted(url(1)))
        .toString();
  }

  private URI url(int number) {
    return URI.create(LOOPBACK + (port + number));
  }

  @Override
  public void close() {
    processes.forEach(Process::destroy);
    processes.forEach(ServiceProcess::stop);
  }
}
