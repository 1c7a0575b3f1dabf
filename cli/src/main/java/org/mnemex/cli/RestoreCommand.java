package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.mnemex.cli.backup.BackupReader;
import org.mnemex.cli.backup.Restore;
import org.mnemex.client.BackupContent;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "restore",
    description = {
      "Put a backup into a new data folder, here or on another machine, without a service.",
      "Every byte is compared with its checksum before it is used."
    },
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex restore /backups/mnemex --data mnemex-data",
      "         mnemex restore mnemex.tar.zst --check"
    })
final class RestoreCommand implements Callable<Integer> {
  @Parameters(
      index = "0",
      paramLabel = "BACKUP",
      description = "a file .tar.zst, the folder of a backup, or a folder of backups (the latest)")
  private Path backup = Path.of("");

  @Option(
      names = "--data",
      paramLabel = "FOLDER",
      description = "the new data folder (default: ${DEFAULT-VALUE})")
  private Path data = Path.of("mnemex-data");

  @Option(
      names = "--copy",
      description =
          "the service of the backup goes on elsewhere: take a name of its own at databases, and"
              + " leave the other's slots and readers alone")
  private boolean copy;

  @Option(names = "--check", description = "only compare the backup with its checksums")
  private boolean check;

  @Spec private CommandSpec spec = CommandSpec.create();

  @Override
  public Integer call() throws IOException {
    TerminalWriter out = new TerminalWriter(spec.commandLine().getOut());
    BackupReader reader = BackupReader.of(backup);
    BackupContent content = check ? reader.check() : new Restore(reader, data).run(copy);
    String what =
        "the state of %s, %s, %s"
            .formatted(
                content.taken(),
                Counted.of(content.files().size(), "file"),
                BackupCommand.size(content.bytes()));
    if (check) {
      out.printf("%s is whole: %s.%n", reader.place(), what);
    } else {
      out.printf("Restored %s into %s: %s.%n", reader.place(), data, what);
      out.println("Start it:        mnemex serve --mnemex.data=" + data);
      out.println("What goes on:    mnemex jobs");
      out.println(
          "Databases, environment variables and files that definitions refer to must be reachable"
              + " from here.");
    }
    return ExitCode.DONE;
  }
}
