package org.mnemex.engine;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** Folders that are gone after the test; for property tests, which JUnit's own do not reach. */
public final class TemporaryFolders implements AutoCloseable {
  private final List<Path> folders = new ArrayList<>();

  public Path create() throws IOException {
    Path folder = Files.createTempDirectory("mnemex-test");
    folders.add(folder);
    return folder;
  }

  @Override
  public void close() {
    for (Path folder : folders) {
      try (Stream<Path> files = Files.walk(folder)) {
        for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
          Files.deleteIfExists(file);
        }
      } catch (IOException e) {
        throw new UncheckedIOException(e);
      }
    }
    folders.clear();
  }
}
