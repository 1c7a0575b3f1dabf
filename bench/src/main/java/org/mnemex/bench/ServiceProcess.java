package org.mnemex.bench;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import org.mnemex.client.MnemexClient;
import org.mnemex.garden.server.Folders;

/**
 * The packaged service on a port and in a folder of its own.
 *
 * @param client to call it
 * @param folder where it runs
 * @param temporary whether the folder is deleted when it has ended
 */
public record ServiceProcess(
    Process process, MnemexClient client, URI uri, Path folder, boolean temporary)
    implements AutoCloseable {
  private static final long START_NANOS = 120_000_000_000L;
  private static final long PATIENCE_NANOS = 7_200_000_000_000L;
  private static final long PAUSE_NANOS = 100_000_000L;

  /** Starts it in a new folder, which ends with it, and waits until it answers. */
  public static ServiceProcess start(Map<String, String> environment)
      throws IOException, InterruptedException {
    return start(Files.createTempDirectory("mnemex-bench"), environment, true);
  }

  /** Starts it in a folder and waits until it answers. */
  public static ServiceProcess start(Path folder, Map<String, String> environment)
      throws IOException, InterruptedException {
    return start(folder, environment, false);
  }

  private static ServiceProcess start(
      Path folder, Map<String, String> environment, boolean temporary)
      throws IOException, InterruptedException {
    String launcher = System.getenv("MNEMEX_LAUNCHER");
    if (launcher == null) {
      throw new IOException("start this through ./mnemex bench");
    }
    int port;
    try (ServerSocket free = new ServerSocket(0)) {
      port = free.getLocalPort();
    }
    ProcessBuilder builder = new ProcessBuilder(launcher, "serve", "--server.port=" + port);
    builder.environment().putAll(environment);
    Process process =
        builder
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(folder.resolve("service.log").toFile())
            .start();
    URI uri = URI.create("http://127.0.0.1:" + port);
    MnemexClient client = new MnemexClient(uri);
    long deadline = System.nanoTime() + START_NANOS;
    while (!client.isUp()) {
      if (!process.isAlive() || System.nanoTime() > deadline) {
        throw new IOException(
            "the service did not start: " + Files.readString(folder.resolve("service.log")));
      }
      Thread.sleep(100);
    }
    return new ServiceProcess(process, client, uri, folder, temporary);
  }

  /** Returns the processor time that it has taken since its start, in seconds. */
  double processorSeconds() {
    return process.info().totalCpuDuration().orElseThrow().toNanos() / 1e9;
  }

  /**
   * Waits for a condition, polling rarely enough not to disturb the measurement.
   *
   * @throws IllegalStateException after two hours
   */
  public static void await(BooleanSupplier condition) {
    long deadline = System.nanoTime() + PATIENCE_NANOS;
    while (!condition.getAsBoolean()) {
      if (System.nanoTime() > deadline) {
        throw new IllegalStateException("waited two hours in vain");
      }
      LockSupport.parkNanos(PAUSE_NANOS);
    }
  }

  @Override
  public void close() throws IOException, InterruptedException {
    client.close();
    process.destroy();
    process.waitFor();
    if (temporary) {
      Folders.delete(folder);
    }
  }
}
