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
      var out = service.out();
      line(check.reachable(), "source '%s' answers".formatted(check.source()));
      if (!check.reachable()) {
        out.println("        " + check.problem());
      }
      for (SourceCheck.Requirement requirement : check.requirements()) {
        line(requirement.met(), requirement.what());
        for (String statement : requirement.statements()) {
          out.println("        " + statement);
        }
        if (requirement.byAdministrator() && !requirement.met()) {
          out.println("        -- to be run by an administrator of the database");
        }
      }
    }

    private void line(boolean met, String what) {
      String mark = met ? "@|green met    |@" : "@|bold,red missing|@";
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
