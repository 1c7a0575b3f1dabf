package org.mnemex.cli.backup;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.mnemex.client.BackupClient;
import org.mnemex.client.BackupContent;

/**
 * A folder with backups, each in a folder of its own that is complete by itself.
 *
 * <p>A file that the backup before has, too, is not fetched: both are hard links to one file, once
 * its checksum was compared. A backup has its name only when all of it is on the disk; until then
 * its folder ends with {@code .part}, and the next backup removes what a crash has left.
 */
public final class BackupFolder {
  private static final String PART = ".part";

  private final Path root;

  /**
   * @param root the folder, which need not exist
   */
  public BackupFolder(Path root) {
    this.root = root;
  }

  /**
   * What was written.
   *
   * @param folder the folder of the new backup
   * @param fetchedFiles how many files were not in the backup before
   * @param fetchedBytes how many bytes they have
   * @param repaired files of the backup before that had changed, and were fetched again
   */
  public record Written(Path folder, int fetchedFiles, long fetchedBytes, List<String> repaired) {}

  /**
   * Fetches a backup.
   *
   * @throws BackupException if another one is being written into this folder, or a file does not
   *     arrive as it was
   */
  public Written write(BackupClient client, BackupContent content) throws IOException {
    Files.createDirectories(root);
    try (FileChannel lockFile =
            FileChannel.open(
                root.resolve(".lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
        FileLock lock = lockFile.tryLock()) {
      if (lock == null) {
        throw new BackupException("another backup is being written into " + root);
      }
      for (Path left : Disk.list(root)) {
        if (Disk.name(left).endsWith(PART)) {
          Disk.delete(left);
        }
      }
      return writeLocked(client, content);
    }
  }

  private Written writeLocked(BackupClient client, BackupContent content) throws IOException {
    Map<String, Path> known = filesOfLatest();
    Path part = Files.createDirectory(root.resolve(content.id() + PART));
    Disk.makePrivate(part);
    int files = 0;
    long bytes = 0;
    List<String> repaired = new ArrayList<>();
    for (BackupContent.File file : content.files()) {
      Path to = BackupJson.resolve(part, file.path());
      Files.createDirectories(Objects.requireNonNull(to.getParent()));
      Path before = known.get(file.sha256());
      if (before != null && CheckedFile.is(before, file)) {
        linkOrCopy(before, to);
        continue;
      }
      if (before != null) {
        repaired.add(file.path());
      }
      fetch(client, content, file, to);
      files++;
      bytes += file.bytes();
    }
    BackupJson.write(part, content);
    Disk.forceAll(part);
    Path whole = root.resolve(content.id());
    Files.move(part, whole, StandardCopyOption.ATOMIC_MOVE);
    Disk.force(root);
    return new Written(whole, files, bytes, List.copyOf(repaired));
  }

  private Map<String, Path> filesOfLatest() throws IOException {
    Map<String, Path> known = new HashMap<>();
    List<Path> all = backups();
    if (!all.isEmpty()) {
      Path latest = all.getLast();
      for (BackupContent.File file : BackupJson.read(latest).files()) {
        known.put(file.sha256(), BackupJson.resolve(latest, file.path()));
      }
    }
    return known;
  }

  private static void fetch(
      BackupClient client, BackupContent content, BackupContent.File file, Path to)
      throws IOException {
    try (InputStream in = client.file(content.id(), file.path());
        OutputStream out = Files.newOutputStream(to)) {
      BackupContent.File arrived = CheckedFile.copy(file.path(), in, out);
      if (!arrived.equals(file)) {
        throw new BackupException(
            "%s did not arrive as it was: %,d bytes instead of %,d, or others; try again"
                .formatted(file.path(), arrived.bytes(), file.bytes()));
      }
    }
  }

  private static void linkOrCopy(Path from, Path to) throws IOException {
    try {
      Files.createLink(to, from);
    } catch (FileSystemException | UnsupportedOperationException e) {
      // A file system without hard links, or the most links that a file can have.
      Files.copy(from, to, StandardCopyOption.REPLACE_EXISTING);
    }
  }

  /** The folders of complete backups, oldest first. */
  public List<Path> backups() throws IOException {
    if (!Files.isDirectory(root)) {
      return List.of();
    }
    return Disk.list(root).stream()
        .filter(folder -> !Disk.name(folder).endsWith(PART) && BackupJson.isIn(folder))
        .toList();
  }

  /**
   * Removes the oldest backups.
   *
   * @param most how many stay
   * @return how many were removed
   */
  public int keep(int most) throws IOException {
    List<Path> all = backups();
    List<Path> old = all.subList(0, Math.max(0, all.size() - most));
    for (Path folder : old) {
      // A folder without its name is no backup any more, even if it is removed only in part.
      Path part = folder.resolveSibling(Disk.name(folder) + PART);
      Files.move(folder, part, StandardCopyOption.ATOMIC_MOVE);
      Disk.delete(part);
    }
    return old.size();
  }
}
