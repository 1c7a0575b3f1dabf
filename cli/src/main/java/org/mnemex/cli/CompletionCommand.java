package org.mnemex.cli;

import java.io.PrintWriter;
import java.util.concurrent.Callable;
import picocli.AutoComplete;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "completion",
    description = "Print a script that lets a shell complete commands and options.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex completion bash > ~/.local/share/bash-completion/completions/mnemex",
      "         source <(mnemex completion zsh)"
    })
final class CompletionCommand implements Callable<Integer> {
  /** A shell that can be completed in. */
  private enum Shell {
    bash,
    zsh
  }

  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(
      index = "0",
      paramLabel = "SHELL",
      description = "${COMPLETION-CANDIDATES}; both take the same script")
  private Shell shell = Shell.bash;

  @Override
  public Integer call() {
    PrintWriter out = spec.commandLine().getOut();
    out.printf("# Completes mnemex in %s.%n", shell);
    out.print(AutoComplete.bash("mnemex", Mnemex.commandLine()));
    out.flush();
    return ExitCode.DONE;
  }
}
