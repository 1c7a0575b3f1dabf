package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.cli.backup.BackupArchive;
import org.mnemex.cli.backup.BackupFolder;
import org.mnemex.client.BackupContent;
import org.mnemex.client.JobEntry;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "backup",
    description = {
      "Back up everything that the service keeps: definitions, keys, indexes with their positions,"
          + " pushed records. The service goes on meanwhile.",
      "In a folder, each backup is complete, and takes only the room of what is new."
    },
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex backup /backups/mnemex --keep 14",
      "         mnemex backup mnemex.tar.zst",
      "'mnemex restore' puts it back."
    })
final class BackupCommand implements Callable<Integer> {
  private static final long POLL_MILLIS = 100;

  @Mixin private Service service = new Service();

  @Parameters(
      index = "0",
      paramLabel = "FOLDER|FILE",
      description = "a folder of backups, or a file whose name ends with .tar.zst")
  private Path target = Path.of("");

  @Option(
      names = "--keep",
      paramLabel = "N",
      description = "in a folder: afterwards, remove all but the latest N backups")
  private @Nullable Integer keep;

  @Spec private CommandSpec spec = CommandSpec.create();

  @Override
  public Integer call() throws IOException, InterruptedException {
    boolean isArchive = target.toString().endsWith(BackupArchive.ENDING);
    if (keep != null && (isArchive || keep < 1)) {
      throw new ParameterException(
          spec.commandLine(), "--keep needs a folder of backups, and a number of at least 1");
    }
    try (MnemexClient client = service.client()) {
      BackupContent content = freeze(client);
      try {
        Map<String, Object> told = new LinkedHashMap<>();
        told.put("backup", content.id());
        told.put("taken", content.taken());
        told.put("files", content.files().size());
        told.put("bytes", content.bytes());
        if (isArchive) {
          archive(client, content, told);
        } else {
          folder(client, content, told);
        }
        if (service.json()) {
          service.printJson(told);
        }
      } finally {
        client.backups().discard(content.id());
      }
      return ExitCode.DONE;
    }
  }

  private BackupContent freeze(MnemexClient client) throws IOException, InterruptedException {
    JobEntry job = client.backups().begin();
    while (!job.isOver()) {
      Thread.sleep(POLL_MILLIS);
      job = client.jobs().one(job.id());
    }
    if (!job.state().equals("done")) {
      throw new IOException("the backup was not made: " + job.message());
    }
    return client.backups().content(Objects.requireNonNull(job.result()).get("backup").asString());
  }

  private void archive(MnemexClient client, BackupContent content, Map<String, Object> told)
      throws IOException {
    new BackupArchive(target).write(client.backups(), content);
    told.put("written", target.toString());
    say("Wrote %s: the state of %s in %s, read again and compared.", target, content);
  }

  private void folder(MnemexClient client, BackupContent content, Map<String, Object> told)
      throws IOException {
    BackupFolder folder = new BackupFolder(target);
    BackupFolder.Written written = folder.write(client.backups(), content);
    told.put("written", written.folder().toString());
    told.put("new_files", written.fetchedFiles());
    told.put("new_bytes", written.fetchedBytes());
    told.put("repaired", written.repaired());
    say("Wrote %s: the state of %s in %s,", written.folder(), content);
    if (!service.json()) {
      service
          .out()
          .printf(
              "of which %s in %s are new. Everything was compared with its checksums.%n",
              size(written.fetchedBytes()), Counted.of(written.fetchedFiles(), "file"));
      for (String path : written.repaired()) {
        service.out().printf("%s had changed in the backup before; it was fetched again.%n", path);
      }
    }
    if (keep != null) {
      int removed = folder.keep(keep);
      told.put("removed", removed);
      if (removed > 0 && !service.json()) {
        service.out().printf("Removed %,d older ones.%n", removed);
      }
    }
  }

  private void say(String sentence, Path written, BackupContent content) {
    if (!service.json()) {
      service
          .out()
          .printf(
              sentence + "%n",
              written,
              content.taken(),
              Counted.of(content.files().size(), "file") + ", " + size(content.bytes()));
    }
  }

  /** Bytes as people say them, in decimal units (IEC 80000-13). */
  static String size(long bytes) {
    String[] units = {"bytes", "kB", "MB", "GB", "TB"};
    double value = bytes;
    int unit = 0;
    while (value >= 1000 && unit < units.length - 1) {
      value /= 1000;
      unit++;
    }
    return (unit == 0 ? "%.0f %s" : "%.1f %s").formatted(value, units[unit]);
  }
}
