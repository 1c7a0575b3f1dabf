package org.mnemex.cli.backup;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import org.mnemex.client.BackupContent;

/** Copies files and tells what they were. */
final class CheckedFile {
  private CheckedFile() {}

  /**
   * Copies a stream to its end.
   *
   * @param path name of the file in the backup
   * @return its length and checksum
   */
  static BackupContent.File copy(String path, InputStream from, OutputStream to)
      throws IOException {
    MessageDigest digest = sha256();
    long bytes = new DigestInputStream(from, digest).transferTo(to);
    return new BackupContent.File(path, bytes, HexFormat.of().formatHex(digest.digest()));
  }

  /** Whether a file is there and has the expected content. */
  static boolean is(Path file, BackupContent.File expected) throws IOException {
    if (!Files.isRegularFile(file) || Files.size(file) != expected.bytes()) {
      return false;
    }
    try (InputStream in = Files.newInputStream(file)) {
      return copy(expected.path(), in, OutputStream.nullOutputStream()).equals(expected);
    }
  }

  private static MessageDigest sha256() {
    try {
      return MessageDigest.getInstance("SHA-256");
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
