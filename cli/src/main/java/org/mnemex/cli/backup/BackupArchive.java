package org.mnemex.cli.backup;

import com.github.luben.zstd.ZstdInputStream;
import com.github.luben.zstd.ZstdOutputStream;
import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.Date;
import org.apache.commons.compress.archivers.tar.TarArchiveEntry;
import org.apache.commons.compress.archivers.tar.TarArchiveInputStream;
import org.apache.commons.compress.archivers.tar.TarArchiveOutputStream;
import org.mnemex.client.BackupClient;
import org.mnemex.client.BackupContent;

/**
 * A backup in one file: a tar archive (POSIX.1-2001, pax) compressed with Zstandard (RFC 8878),
 * with {@code backup.json} as its last entry. Other programs can unpack it to a backup in a folder.
 */
public final class BackupArchive {
  /** How names of archives end. */
  public static final String ENDING = ".tar.zst";

  private static final int BUFFER_BYTES = 1 << 20;
  private static final int OWNER_ONLY = 0100600;

  private final Path file;

  public BackupArchive(Path file) {
    this.file = file;
  }

  /**
   * Fetches a backup into the file, which is there wholly or not at all, and reads it again.
   *
   * @throws BackupException if a file does not arrive as it was
   */
  public void write(BackupClient client, BackupContent content) throws IOException {
    Path part = file.resolveSibling(Disk.name(file) + ".part");
    Files.deleteIfExists(part);
    Files.createFile(part);
    Disk.makePrivate(part);
    try (OutputStream out = new BufferedOutputStream(Files.newOutputStream(part), BUFFER_BYTES);
        ZstdOutputStream packed = new ZstdOutputStream(out).setChecksum(true);
        TarArchiveOutputStream tar = new TarArchiveOutputStream(packed, "UTF-8")) {
      tar.setLongFileMode(TarArchiveOutputStream.LONGFILE_POSIX);
      tar.setBigNumberMode(TarArchiveOutputStream.BIGNUMBER_POSIX);
      tar.setAddPaxHeadersForNonAsciiNames(true);
      for (BackupContent.File expected : content.files()) {
        begin(tar, content, expected.path(), expected.bytes());
        try (InputStream in = client.file(content.id(), expected.path())) {
          BackupContent.File arrived = CheckedFile.copy(expected.path(), in, tar);
          if (!arrived.equals(expected)) {
            throw new BackupException(expected.path() + " did not arrive as it was; try again");
          }
        }
        tar.closeArchiveEntry();
      }
      byte[] json = BackupJson.bytes(content);
      begin(tar, content, BackupJson.NAME, json.length);
      tar.write(json);
      tar.closeArchiveEntry();
    }
    Disk.force(part);
    BackupReader.of(part).check();
    Files.move(part, file, StandardCopyOption.ATOMIC_MOVE);
    Path folder = file.toAbsolutePath().getParent();
    if (folder != null) {
      Disk.force(folder);
    }
  }

  private static void begin(
      TarArchiveOutputStream tar, BackupContent content, String path, long bytes)
      throws IOException {
    TarArchiveEntry entry = new TarArchiveEntry(content.id() + "/" + path);
    entry.setSize(bytes);
    entry.setMode(OWNER_ONLY);
    entry.setModTime(Date.from(Instant.parse(content.taken())));
    tar.putArchiveEntry(entry);
  }

  /** The archive to be read, as a stream of entries. */
  static TarArchiveInputStream open(Path file) throws IOException {
    return new TarArchiveInputStream(
        new ZstdInputStream(new BufferedInputStream(Files.newInputStream(file), BUFFER_BYTES)),
        "UTF-8");
  }
}
