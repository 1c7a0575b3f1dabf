package org.mnemex.garden.server;

import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** What running other programs needs. */
final class Processes {
  private Processes() {}

  static int freePort() throws IOException {
    try (ServerSocket socket = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
      return socket.getLocalPort();
    }
  }

  private static boolean isRoot() {
    return "root".equals(System.getProperty("user.name"));
  }

  /** How to run something as another user; servers refuse to run as root. */
  static List<String> as(String user) {
    return isRoot() ? List.of("runuser", "-u", user, "--") : List.of();
  }

  static void give(Path folder, String user) throws IOException {
    if (isRoot()) {
      run(folder.getParent(), List.of("chown", "-R", user, folder.toString()));
    }
  }

  static void run(Path folder, List<String> command) throws IOException {
    Path output = Files.createTempFile("mnemex-tool", ".log");
    try {
      Process process =
          new ProcessBuilder(command)
              .directory(folder.toFile())
              .redirectErrorStream(true)
              .redirectOutput(output.toFile())
              .start();
      int result = process.waitFor();
      if (result != 0) {
        throw new IOException(
            "%s ended with %d: %s".formatted(command, result, Files.readString(output)));
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IOException("interrupted while running " + command, e);
    } finally {
      Files.deleteIfExists(output);
    }
  }
}
