package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/** The service as a process of its own. */
final class ServiceProcess {
  private static final long STOP_SECONDS = 60;

  private ServiceProcess() {}

  /**
   * Starts the service in the current folder.
   *
   * @param environment variables besides our own
   * @param log where its output goes; null: to ours
   * @throws IOException if the program is not where the launcher says
   */
  static Process start(List<String> arguments, @Nullable Path log, Map<String, String> environment)
      throws IOException {
    String launcher = System.getenv("MNEMEX_LAUNCHER");
    if (launcher == null) {
      throw new IOException(
          "MNEMEX_LAUNCHER is not set; start this command through the script 'mnemex'");
    }
    List<String> command = new ArrayList<>(List.of(launcher, "serve"));
    command.addAll(arguments);
    ProcessBuilder builder = new ProcessBuilder(command);
    builder.environment().putAll(environment);
    if (log == null) {
      builder.inheritIO();
    } else {
      Path folder = log.toAbsolutePath().getParent();
      if (folder != null) {
        Files.createDirectories(folder);
      }
      builder
          .redirectErrorStream(true)
          .redirectOutput(ProcessBuilder.Redirect.appendTo(log.toFile()));
    }
    return builder.start();
  }

  /** Stops the service, and waits until it has committed and exited. */
  static void stop(Process service) {
    service.destroy();
    try {
      if (!service.waitFor(STOP_SECONDS, TimeUnit.SECONDS)) {
        service.destroyForcibly();
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }
}
