package org.mnemex.cli;

import java.io.PrintWriter;
import java.util.List;
import java.util.Locale;
import javax.net.ssl.SSLHandshakeException;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.Problem;
import org.mnemex.client.ProblemException;
import org.mnemex.client.UnreachableException;
import picocli.CommandLine;
import picocli.CommandLine.Command;

/** The command {@code mnemex}. Subcommands stand in the order of the job. */
@Command(
    name = "mnemex",
    description = "Keeps a full-text search index true to a database.",
    versionProvider = Version.class,
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    footer = {
      "",
      "The service is called at http://127.0.0.1:7077, or at MNEMEX_URL.",
      "Exit codes: 0 done, 1 failed, 2 usage, 3 refused, 4 not reachable."
    })
public final class Mnemex {
  private static final int UNAUTHORIZED = 401;

  /** In the order of the job. */
  private static final List<Class<?>> COMMANDS =
      List.of(
          DemoCommand.class,
          ServeCommand.class,
          SourceCommand.class,
          DraftCommand.class,
          AnalyseCommand.class,
          CheckCommand.class,
          PlanCommand.class,
          ApplyCommand.class,
          EditionsCommand.class,
          CompareCommand.class,
          InsightsCommand.class,
          JobsCommand.class,
          ScoreCommand.class,
          DefinitionsCommand.class,
          SwitchCommand.Promote.class,
          SwitchCommand.Rollback.class,
          RemoveCommand.class,
          StatusCommand.class,
          FeedCommand.class,
          TraceCommand.class,
          AuditCommand.class,
          QuarantineCommand.class,
          ImportCommand.class,
          ExportCommand.class,
          SearchCommand.class,
          SuggestCommand.class,
          KeysCommand.class,
          ActivityCommand.class,
          ConditionsCommand.class,
          BackupCommand.class,
          RestoreCommand.class,
          StoreCommand.class,
          NodesCommand.class,
          CompactCommand.class,
          InspectCommand.class,
          CompletionCommand.class,
          ManPagesCommand.class);

  /** Runs a command and exits with its code. */
  public static void main(String[] args) {
    // Scripts read what is printed, so numbers are the same on all machines.
    Locale.setDefault(Locale.ROOT);
    System.exit(commandLine(args).execute(args));
  }

  /** The command line with all commands. */
  static CommandLine commandLine() {
    return commandLine(COMMANDS);
  }

  /** To know the options of all commands would take longer than most of them do. */
  private static CommandLine commandLine(String[] args) {
    List<Class<?>> asked =
        COMMANDS.stream()
            .filter(
                one -> args.length > 0 && one.getAnnotation(Command.class).name().equals(args[0]))
            .toList();
    return commandLine(asked.isEmpty() ? COMMANDS : asked);
  }

  private static CommandLine commandLine(List<Class<?>> commands) {
    CommandLine all = new CommandLine(new Mnemex());
    commands.forEach(all::addSubcommand);
    return all.setCaseInsensitiveEnumValuesAllowed(true)
        .setExecutionExceptionHandler((e, commandLine, result) -> report(e, commandLine));
  }

  private static int report(Exception e, CommandLine commandLine) {
    PrintWriter err = new TerminalWriter(commandLine.getErr());
    return switch (e) {
      case ProblemException refused -> {
        reportProblem(refused.problem(), err);
        if (refused.problem().status() == UNAUTHORIZED) {
          err.println("Put the key into MNEMEX_KEY, or name a file with it: --key-file FILE");
        }
        yield ExitCode.FAILED;
      }
      case UnreachableException unreachable -> {
        err.println(unreachable.getMessage());
        if (unreachable.getCause() instanceof SSLHandshakeException) {
          err.println(
              "If its certificate is from an authority of your own, name that: --ca-file FILE");
        }
        yield ExitCode.UNREACHABLE;
      }
      case CommandLine.ParameterException usage -> {
        err.println(usage.getMessage());
        yield ExitCode.USAGE;
      }
      default -> {
        err.println(e.getMessage() == null ? e.toString() : e.getMessage());
        yield ExitCode.FAILED;
      }
    };
  }

  private static void reportProblem(Problem problem, PrintWriter err) {
    List<Problem.Place> places = problem.problems();
    if (places == null || places.isEmpty()) {
      err.println(withSuggestion(String.valueOf(problem.detail()), problem.suggestion()));
      return;
    }
    places.forEach(place -> err.println(line(place)));
    err.println("No definition was changed.");
  }

  /** A problem in a file, in one line. */
  static String line(Problem.Place place) {
    return "%s:%d:%d: %s%s"
        .formatted(
            place.file(),
            place.line(),
            place.column(),
            place.key().isEmpty() ? "" : place.key() + ": ",
            withSuggestion(place.detail(), place.suggestion()));
  }

  private static String withSuggestion(String detail, @Nullable String suggestion) {
    return suggestion == null || detail.contains("did you mean")
        ? detail
        : detail + "; did you mean '" + suggestion + "'?";
  }
}
