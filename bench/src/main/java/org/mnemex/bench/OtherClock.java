package org.mnemex.bench;

import java.io.IOException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;

/** Lets a process live in the past, by Debian's package {@code faketime}. */
final class OtherClock {
  private OtherClock() {}

  /**
   * The environment of a process whose time of day is so many days behind; how long something takes
   * is measured as always.
   *
   * @throws IOException if the package is not installed
   */
  static Map<String, String> daysAgo(int days) throws IOException {
    try (DirectoryStream<Path> architectures =
        Files.newDirectoryStream(Path.of("/usr/lib"), "*-linux-*")) {
      for (Path architecture : architectures) {
        Path library = architecture.resolve("faketime/libfaketimeMT.so.1");
        if (Files.exists(library)) {
          return Map.of(
              "LD_PRELOAD",
              library.toString(),
              "FAKETIME",
              "-" + days + "d",
              "FAKETIME_DONT_FAKE_MONOTONIC",
              "1",
              // Or each wait with a time limit would end at once.
              "FAKETIME_FORCE_MONOTONIC_FIX",
              "0");
        }
      }
    }
    throw new IOException("days in the past need Debian's package 'faketime'");
  }
}
