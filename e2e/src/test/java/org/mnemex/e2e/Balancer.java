package org.mnemex.e2e;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;

/** A load balancer in front of two search nodes, as the package sets it up. */
final class Balancer implements AutoCloseable {
  final URI url;
  private final ProcessBuilder builder;
  private volatile Process process;

  private Balancer(URI url, ProcessBuilder builder) throws IOException {
    this.url = url;
    this.builder = builder;
    this.process = builder.start();
  }

  /**
   * Starts it.
   *
   * @param folder of its own
   * @param patience how long a node is waited for, as {@code 700ms}
   */
  static Balancer start(Path folder, String patience, RunningService one, RunningService two)
      throws IOException {
    String settings =
        Files.readString(RunningService.root().resolve("packaging/cluster/haproxy.cfg"));
    Path file =
        Files.writeString(
            folder.resolve("haproxy.cfg"),
            settings.replaceFirst("timeout server \\w+", "timeout server " + patience));
    int port;
    try (ServerSocket free = new ServerSocket(0)) {
      port = free.getLocalPort();
    }
    ProcessBuilder builder =
        new ProcessBuilder("/usr/sbin/haproxy", "-db", "-f", file.toString())
            .redirectErrorStream(true)
            .redirectOutput(folder.resolve("haproxy.log").toFile());
    builder.environment().put("MNEMEX_LISTEN", "127.0.0.1:" + port);
    builder.environment().put("MNEMEX_NODE_ONE", "127.0.0.1:" + one.port);
    builder.environment().put("MNEMEX_NODE_TWO", "127.0.0.1:" + two.port);
    return new Balancer(URI.create("http://127.0.0.1:" + port), builder);
  }

  /** Its process, for signals. */
  long pid() {
    return process.pid();
  }

  /** Kills it and starts it again. */
  void restart() throws IOException, InterruptedException {
    process.destroyForcibly();
    process.waitFor();
    process = builder.start();
  }

  @Override
  public void close() {
    process.destroy();
  }
}
