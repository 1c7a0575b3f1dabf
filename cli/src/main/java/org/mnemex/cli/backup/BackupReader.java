package org.mnemex.cli.backup;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.apache.commons.compress.archivers.tar.TarArchiveEntry;
import org.apache.commons.compress.archivers.tar.TarArchiveInputStream;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.BackupContent;

/** Reads a backup, in a folder or an archive, and compares every byte with its checksum. */
public final class BackupReader {
  private static final int SHOWN = 3;

  private final Path place;

  private BackupReader(Path place) {
    this.place = place;
  }

  /** Where the content of files goes. */
  private interface Target {
    OutputStream open(String path) throws IOException;
  }

  /**
   * A backup: an archive, the folder of a backup, or a folder with backups, of which the latest is
   * taken.
   *
   * @throws BackupException if there is none
   */
  public static BackupReader of(Path place) throws IOException {
    if (!Files.exists(place)) {
      throw new BackupException("there is no " + place);
    }
    if (!Files.isDirectory(place) || BackupJson.isIn(place)) {
      return new BackupReader(place);
    }
    List<Path> all = new BackupFolder(place).backups();
    if (all.isEmpty()) {
      throw new BackupException(
          "%s holds no complete backup: one consists of a folder with a %s"
              .formatted(place, BackupJson.NAME));
    }
    return new BackupReader(all.getLast());
  }

  /** The archive, or the folder of the one backup. */
  public Path place() {
    return place;
  }

  /**
   * Reads everything.
   *
   * @return what the backup consists of
   * @throws BackupException if a file is missing or has changed
   */
  public BackupContent check() throws IOException {
    return read(path -> OutputStream.nullOutputStream());
  }

  /**
   * Reads everything into a folder.
   *
   * @return what the backup consists of
   * @throws BackupException if a file is missing or has changed; what was written must not be used
   */
  BackupContent unpack(Path folder) throws IOException {
    return read(
        path -> {
          Path to = BackupJson.resolve(folder, path);
          Files.createDirectories(Objects.requireNonNull(to.getParent()));
          return Files.newOutputStream(to);
        });
  }

  private BackupContent read(Target target) throws IOException {
    Map<String, BackupContent.File> found = new HashMap<>();
    BackupContent content =
        Files.isDirectory(place) ? readFolder(target, found) : readArchive(target, found);
    List<String> wrong = new ArrayList<>();
    for (BackupContent.File expected : content.files()) {
      BackupContent.File file = found.remove(expected.path());
      if (file == null) {
        wrong.add(expected.path() + " is missing");
      } else if (!file.equals(expected)) {
        wrong.add(expected.path() + " has changed");
      }
    }
    found.keySet().forEach(path -> wrong.add(path + " does not belong to it"));
    if (!wrong.isEmpty()) {
      throw new BackupException(
          "backup %s is damaged: %s%s. Take another one"
              .formatted(
                  place,
                  String.join(", ", wrong.subList(0, Math.min(SHOWN, wrong.size()))),
                  wrong.size() > SHOWN ? " and %d more".formatted(wrong.size() - SHOWN) : ""));
    }
    return content;
  }

  private BackupContent readFolder(Target target, Map<String, BackupContent.File> found)
      throws IOException {
    BackupContent content = BackupJson.read(place);
    for (BackupContent.File file : content.files()) {
      Path from = BackupJson.resolve(place, file.path());
      if (Files.isRegularFile(from)) {
        try (InputStream in = Files.newInputStream(from);
            OutputStream out = target.open(file.path())) {
          found.put(file.path(), CheckedFile.copy(file.path(), in, out));
        }
      }
    }
    return content;
  }

  private BackupContent readArchive(Target target, Map<String, BackupContent.File> found)
      throws IOException {
    BackupContent content = null;
    try (TarArchiveInputStream tar = BackupArchive.open(place)) {
      for (TarArchiveEntry entry = tar.getNextEntry(); entry != null; entry = tar.getNextEntry()) {
        @Nullable String path = pathInBackup(entry);
        if (path == null) {
          continue;
        }
        if (path.equals(BackupJson.NAME)) {
          content =
              BackupJson.read(place + "/" + path, new ByteArrayInputStream(tar.readAllBytes()));
        } else {
          try (OutputStream out = target.open(path)) {
            found.put(path, CheckedFile.copy(path, tar, out));
          }
        }
      }
    } catch (BackupException e) {
      throw e;
    } catch (IOException e) {
      throw new BackupException(
          "%s cannot be read as an archive: %s. Take another one".formatted(place, e.getMessage()));
    }
    if (content == null) {
      throw new BackupException(
          "%s is not complete: it has no %s".formatted(place, BackupJson.NAME));
    }
    return content;
  }

  /** Names begin with the name of the backup. */
  private static @Nullable String pathInBackup(TarArchiveEntry entry) {
    String name = entry.getName();
    int slash = name.indexOf('/');
    return entry.isFile() && slash >= 0 ? name.substring(slash + 1) : null;
  }
}
