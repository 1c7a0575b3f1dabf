package org.mnemex.cli.backup;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.regex.Pattern;
import org.mnemex.client.BackupContent;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** The file {@code backup.json}, which says what a backup consists of. */
final class BackupJson {
  static final String NAME = "backup.json";
  private static final int FORMAT = 1;
  private static final JsonMapper JSON =
      JsonMapper.builder()
          .enable(SerializationFeature.INDENT_OUTPUT)
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .build();

  /** The files of a data folder; a backup of anything else is not ours. */
  private static final Pattern PATHS =
      Pattern.compile("mnemex\\.db|indexes/[^/\\\\]+/edition-\\d+/(?!\\.)[^/\\\\]+");

  private BackupJson() {}

  static boolean isIn(Path folder) {
    return Files.isRegularFile(folder.resolve(NAME));
  }

  static byte[] bytes(BackupContent content) {
    return JSON.writeValueAsBytes(content);
  }

  static void write(Path folder, BackupContent content) throws IOException {
    Files.write(folder.resolve(NAME), bytes(content));
  }

  /**
   * Reads it from a folder.
   *
   * @throws BackupException if it is of no form that this version knows
   */
  static BackupContent read(Path folder) throws IOException {
    Path file = folder.resolve(NAME);
    try (InputStream in = Files.newInputStream(file)) {
      return read(file.toString(), in);
    }
  }

  static BackupContent read(String name, InputStream in) throws IOException {
    BackupContent content;
    try {
      content = JSON.readValue(in, BackupContent.class);
    } catch (JacksonException e) {
      throw new BackupException(
          "%s is not what a backup says of itself: %s".formatted(name, e.getOriginalMessage()));
    }
    if (content.format() != FORMAT) {
      throw new BackupException(
          "%s is of form %d, and this version knows form %d; use the version that made it"
              .formatted(name, content.format(), FORMAT));
    }
    return content;
  }

  /**
   * Where a file of a backup belongs.
   *
   * @throws BackupException if that is no file of a data folder
   */
  static Path resolve(Path folder, String path) throws BackupException {
    if (!PATHS.matcher(path).matches() || path.contains("/../")) {
      throw new BackupException("'%s' is no file of a data folder".formatted(path));
    }
    return folder.resolve(path);
  }
}
