package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "man-pages",
    description = "Write the manual pages of all commands into a folder.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex man-pages ~/.local/share/man/man1"})
final class ManPagesCommand implements Callable<Integer> {
  @Parameters(index = "0", paramLabel = "FOLDER", description = "made if it is not there")
  private Path folder = Path.of("");

  @Spec private CommandSpec spec = CommandSpec.create();

  @Override
  public Integer call() throws IOException {
    Files.createDirectories(folder);
    int pages = write(Mnemex.commandLine().getCommandSpec());
    TerminalWriter out = new TerminalWriter(spec.commandLine().getOut());
    out.printf("Wrote %d pages; read them with: man -l %s%n", pages, folder.resolve("mnemex.1"));
    return ExitCode.DONE;
  }

  private int write(CommandSpec command) throws IOException {
    ManPage page = new ManPage(command);
    Files.writeString(folder.resolve(page.name() + ".1"), page.text());
    int pages = 1;
    for (CommandLine sub : command.subcommands().values()) {
      pages += write(sub.getCommandSpec());
    }
    return pages;
  }
}
