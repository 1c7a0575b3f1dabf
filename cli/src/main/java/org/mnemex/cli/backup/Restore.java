package org.mnemex.cli.backup;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.mnemex.client.BackupContent;
import tools.jackson.databind.json.JsonMapper;

/**
 * Puts a backup into a data folder that no service has used.
 *
 * <p>Everything is written into a folder inside, compared with its checksums, and only then moved
 * to its place, our records as the last: a data folder without them is none. What a crash leaves is
 * removed by the next try.
 */
public final class Restore {
  private static final String PART = "restore.part";
  private static final String RECORDS = "mnemex.db";

  private final BackupReader backup;
  private final Path data;

  /**
   * @param backup what to restore
   * @param data the data folder, which must be empty or not exist
   */
  public Restore(BackupReader backup, Path data) {
    this.backup = backup;
    this.data = data;
  }

  /**
   * Restores.
   *
   * @param copy whether the installation of the backup goes on elsewhere, so that this one gets a
   *     name of its own
   * @throws BackupException if the folder is in use, or the backup is damaged; the folder is as it
   *     was
   */
  public BackupContent run(boolean copy) throws IOException {
    Files.createDirectories(data);
    Path part = data.resolve(PART);
    Disk.delete(part);
    List<Path> there = Disk.list(data);
    if (!there.isEmpty()) {
      throw new BackupException(
          "%s is not empty (%s): name another folder, or move it away first"
              .formatted(data, Disk.name(there.getFirst())));
    }
    Files.createDirectory(part);
    Disk.makePrivate(part);
    boolean isWhole = false;
    try {
      BackupContent content = backup.unpack(part);
      Files.createDirectories(part.resolve("indexes"));
      Files.write(
          part.resolve("restored.json"),
          new JsonMapper()
              .writeValueAsBytes(
                  Map.of("backup", content.id(), "taken", content.taken(), "copy", copy)));
      Disk.forceAll(part);
      isWhole = true;
      for (String name : List.of("indexes", "restored.json", RECORDS)) {
        Files.move(part.resolve(name), data.resolve(name));
      }
      Disk.force(data);
      return content;
    } finally {
      if (!isWhole || Files.exists(data.resolve(RECORDS))) {
        Disk.delete(part);
      }
    }
  }
}
