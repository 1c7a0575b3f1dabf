package org.mnemex.cli.backup;

import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/** What backups need of a file system. */
final class Disk {
  private Disk() {}

  /** Forces the content of a file, or the names in a folder, to the disk. */
  static void force(Path path) throws IOException {
    StandardOpenOption how =
        Files.isDirectory(path) ? StandardOpenOption.READ : StandardOpenOption.WRITE;
    try (FileChannel channel = FileChannel.open(path, how)) {
      channel.force(true);
    }
  }

  /** Forces everything in a folder to the disk. */
  static void forceAll(Path folder) throws IOException {
    for (Path path : walk(folder)) {
      force(path);
    }
  }

  /** Removes a folder with everything in it, if it is there. */
  static void delete(Path folder) throws IOException {
    if (Files.exists(folder)) {
      for (Path path : walk(folder).reversed()) {
        Files.delete(path);
      }
    }
  }

  private static List<Path> walk(Path folder) throws IOException {
    try (Stream<Path> all = Files.walk(folder)) {
      return all.sorted(Comparator.naturalOrder()).toList();
    }
  }

  /** What is in a folder. */
  static List<Path> list(Path folder) throws IOException {
    try (Stream<Path> all = Files.list(folder)) {
      return all.sorted().toList();
    }
  }

  static String name(Path path) {
    return String.valueOf(path.getFileName());
  }

  /** Backups hold what the index holds: only their owner may read them. */
  static void makePrivate(Path path) throws IOException {
    if (path.getFileSystem().supportedFileAttributeViews().contains("posix")) {
      Files.setPosixFilePermissions(
          path,
          PosixFilePermissions.fromString(Files.isDirectory(path) ? "rwx------" : "rw-------"));
    }
  }
}
