package org.mnemex.cli;

import java.util.List;
import org.mnemex.client.Problem;
import org.mnemex.client.ProblemException;
import org.mnemex.client.UnreachableException;
import picocli.CommandLine;
import picocli.CommandLine.Command;

/** The command {@code mnemex}. Subcommands stand in the order of the job. */
@Command(
    name = "mnemex",
    description = "Keeps a full-text search index true to a database.",
    version = "mnemex 0.1.0",
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    subcommands = {
      DemoCommand.class,
      ServeCommand.class,
      AnalyseCommand.class,
      ApplyCommand.class,
      StatusCommand.class,
      TraceCommand.class,
      SearchCommand.class,
    },
    footer = {
      "",
      "The service is looked for at http://127.0.0.1:7077, or where MNEMEX_URL says.",
      "Exit codes: 0 done, 1 failed, 2 usage, 3 refused, 4 not reachable."
    })
public final class Mnemex {
  /** Runs a command and exits with its code. */
  public static void main(String[] args) {
    System.exit(commandLine().execute(args));
  }

  static CommandLine commandLine() {
    return new CommandLine(new Mnemex())
        .setExecutionExceptionHandler((e, commandLine, result) -> report(e, commandLine));
  }

  private static int report(Exception e, CommandLine commandLine) {
    var err = commandLine.getErr();
    switch (e) {
      case ProblemException refused -> {
        Problem problem = refused.problem();
        List<Problem.Place> places = problem.problems();
        if (places == null || places.isEmpty()) {
          err.println(
              problem.detail()
                  + (problem.suggestion() == null
                          || String.valueOf(problem.detail()).contains("did you mean")
                      ? ""
                      : "; did you mean '" + problem.suggestion() + "'?"));
        } else {
          for (Problem.Place place : places) {
            err.printf(
                "%s:%d:%d: %s%s%s%n",
                place.file(),
                place.line(),
                place.column(),
                place.key().isEmpty() ? "" : place.key() + ": ",
                place.detail(),
                place.suggestion() == null ? "" : "; did you mean '" + place.suggestion() + "'?");
          }
          err.println("Nothing was changed.");
        }
        return ExitCode.FAILED;
      }
      case UnreachableException unreachable -> {
        err.println(unreachable.getMessage());
        return ExitCode.UNREACHABLE;
      }
      case CommandLine.ParameterException usage -> {
        err.println(usage.getMessage());
        return ExitCode.USAGE;
      }
      default -> {
        err.println(e.getMessage() == null ? e.toString() : e.getMessage());
        return ExitCode.FAILED;
      }
    }
  }
}
