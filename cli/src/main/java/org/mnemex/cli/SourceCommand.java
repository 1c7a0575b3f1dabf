package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SourceCheck;
import org.mnemex.client.SourceTable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Parameters;

/** Databases that records come from. */
@Command(
    name = "source",
    description = "Look at the databases that records come from.",
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    subcommands = {SourceCommand.Check.class, SourceCommand.Tables.class})
final class SourceCommand {
  @Command(
      name = "check",
      description = "Say whether a source can be followed, and what to run for what is missing.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex source check garden", "Exit code 1 if something is missing."})
  static final class Check implements Callable<Integer> {
    private static final String MET = "@|green met    |@";
    private static final String MISSING = "@|bold,red missing|@";
    private static final String ADVICE = "@|yellow advice |@";

    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "NAME", description = "the source")
    private String name = "";

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        SourceCheck check = client.checkSource(name);
        if (service.json()) {
          service.printJson(check);
        } else {
          print(check);
        }
        return check.passed() ? ExitCode.DONE : ExitCode.FAILED;
      }
    }

    private void print(SourceCheck check) {
      line(check.reachable() ? MET : MISSING, "source '%s' answers".formatted(check.source()));
      if (!check.reachable()) {
        service.out().println("        " + check.problem());
      }
      check.requirements().stream().filter(r -> !r.isAdvice()).forEach(this::print);
      // Advice that is followed already is not worth a line.
      check.requirements().stream().filter(r -> r.isAdvice() && !r.met()).forEach(this::print);
    }

    private void print(SourceCheck.Requirement requirement) {
      line(requirement.met() ? MET : requirement.isAdvice() ? ADVICE : MISSING, requirement.what());
      for (String statement : requirement.statements()) {
        service.out().println("        " + statement);
      }
      if (requirement.kind().equals("ADMINISTRATIVE") && !requirement.met()) {
        service.out().println("        -- to be run by an administrator of the database");
      }
    }

    private void line(String mark, String what) {
      service.out().println(service.styled(mark + " " + what));
    }
  }

  @Command(
      name = "tables",
      description = "List the tables of a source with their columns.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex source tables garden"})
  static final class Tables implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "NAME", description = "the source")
    private String name = "";

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        List<SourceTable> tables = client.tables(name);
        if (service.json()) {
          service.printJson(tables);
          return ExitCode.DONE;
        }
        Table shown = new Table("table", "key", "columns");
        for (SourceTable table : tables) {
          shown.row(
              table.name() + (table.view() ? " (view)" : ""),
              String.join(", ", table.key()),
              table.columns().stream()
                  .map(
                      column ->
                          column.name() + " " + column.type().toLowerCase(java.util.Locale.ROOT))
                  .collect(Collectors.joining(", ")));
        }
        shown.print(service.out());
        return ExitCode.DONE;
      }
    }
  }
}
