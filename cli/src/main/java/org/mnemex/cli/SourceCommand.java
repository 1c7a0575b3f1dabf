package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SourceCheck;
import org.mnemex.client.SourceStatements;
import org.mnemex.client.SourceTable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Databases that records come from. */
@Command(
    name = "source",
    description = "Connect to the databases that records come from, and look at them.",
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    subcommands = {
      SourceAddCommand.class,
      SourceCommand.Check.class,
      SourceCommand.Prepare.class,
      SourceCommand.Tables.class,
      SourceCommand.DropReader.class,
      SourceCommand.Forget.class
    })
final class SourceCommand {
  @Command(
      name = "check",
      description =
          "Check whether a source can be followed, and print the statements for what is missing.",
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
        SourceCheck check = client.source(name).check();
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
      } else if (check.encrypted() != null) {
        line(
            check.encrypted() ? MET : ADVICE,
            check.encrypted()
                ? "the connection is encrypted"
                : "the connection is not encrypted; 'tls: verify-full' in its definition requires it");
      }
      check.requirements().stream().filter(r -> !r.isAdvice()).forEach(this::print);
      // Advice that is followed already is not worth a line.
      check.requirements().stream().filter(r -> r.isAdvice() && !r.met()).forEach(this::print);
      check.readers().stream().filter(r -> r.feeds() == null).forEach(r -> print(check, r));
    }

    private void print(SourceCheck check, SourceCheck.Reader reader) {
      line(
          ADVICE,
          "reader '%s' keeps %,d %s and feeds no edition of this service"
              .formatted(reader.name(), reader.retained(), reader.unit()));
      service
          .out()
          .println(
              "        If no other service uses it: mnemex source drop-reader %s %s"
                  .formatted(check.source(), reader.name()));
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
      description = "List the tables of a source with their columns, or some rows of one.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex source tables garden accession"})
  static final class Tables implements Callable<Integer> {
    private static final int SHOWN_ROWS = 10;
    private static final int CELL = 40;

    @Mixin private Service service = new Service();

    @Parameters(index = "0", paramLabel = "NAME", description = "the source")
    private String name = "";

    @Parameters(
        index = "1",
        arity = "0..1",
        paramLabel = "TABLE",
        description = "show some rows of this table")
    private @Nullable String table;

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        if (table != null) {
          rows(client.source(name).rows(table, SHOWN_ROWS));
          return ExitCode.DONE;
        }
        List<SourceTable> tables = client.source(name).tables();
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
                  .map(column -> column.name() + " " + column.type().toLowerCase(Locale.ROOT))
                  .collect(Collectors.joining(", ")));
        }
        shown.print(service.out());
        return ExitCode.DONE;
      }
    }

    private void rows(List<Map<String, Object>> rows) {
      if (service.json()) {
        service.printJson(rows);
        return;
      }
      Set<String> columns = new LinkedHashSet<>();
      rows.forEach(row -> columns.addAll(row.keySet()));
      if (rows.isEmpty()) {
        service.out().println("The table has no rows.");
        return;
      }
      Table shown = new Table(columns.toArray(String[]::new));
      for (Map<String, Object> row : rows) {
        shown.row(columns.stream().map(column -> cell(row.get(column))).toArray());
      }
      shown.print(service.out());
    }

    private static String cell(@Nullable Object value) {
      String text = value == null ? "" : value.toString().replaceAll("\\s+", " ");
      return text.length() > CELL ? text.substring(0, CELL) + "…" : text;
    }
  }

  @Command(
      name = "prepare",
      description = "Create what the indexes of a source need in its database.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Example: mnemex source prepare garden --run",
        "         mnemex source prepare garden --with examples/garden",
        "Without --run the statements are only printed."
      })
  static final class Prepare implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "NAME", description = "the source")
    private String name = "";

    @Option(names = "--run", description = "run the statements")
    private boolean run;

    @Option(
        names = "--with",
        arity = "1..*",
        paramLabel = "FILE",
        description = "also for the indexes in these definition files, which are not applied yet")
    private List<Path> with = List.of();

    @Override
    public Integer call() throws IOException {
      try (MnemexClient client = service.client()) {
        SourceStatements statements =
            client
                .source(name)
                .prepare(run, with.isEmpty() ? Map.of() : DefinitionFiles.read(with));
        if (service.json()) {
          service.printJson(statements);
        } else if (statements.refused() != null) {
          service.out().println(statements.refused());
        } else if (statements.indexes().isEmpty()) {
          service
              .out()
              .println(
                  ("No index uses source '%s' yet, so nothing is needed. To see what an index would"
                          + " need: mnemex source prepare %s --with FILE")
                      .formatted(name, name));
        } else if (statements.statements().isEmpty() && statements.left().isEmpty()) {
          service
              .out()
              .println(
                  "Everything that index %s needs from source '%s' is in place."
                      .formatted(String.join(", ", statements.indexes()), name));
        } else {
          printStatements(service, statements);
        }
        return statements.left().isEmpty() ? ExitCode.DONE : ExitCode.REFUSED;
      }
    }
  }

  private static void printStatements(Service service, SourceStatements statements) {
    statements.statements().forEach(sql -> service.out().println(sql));
    if (!statements.left().isEmpty()) {
      service.out().println("-- first to be run by an administrator of the database:");
      statements.left().forEach(sql -> service.out().println(sql));
    } else if (statements.run()) {
      service.out().println("Done.");
    } else {
      service.out().println("-- nothing was changed; --run runs these");
    }
  }

  @Command(
      name = "drop-reader",
      description =
          "Remove a reader that feeds no edition, so that the source keeps no changes for it.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Example: mnemex source drop-reader garden plants/1@3f2a9c1d",
        "'mnemex source check' lists them. A reader may belong to another service."
      })
  static final class DropReader implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(index = "0", paramLabel = "NAME", description = "the source")
    private String name = "";

    @Parameters(index = "1", paramLabel = "READER", description = "as 'source check' shows it")
    private String reader = "";

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        client.source(name).dropReader(reader);
        service
            .out()
            .println("Source '%s' no longer keeps changes for '%s'.".formatted(name, reader));
        return ExitCode.DONE;
      }
    }
  }

  @Command(
      name = "forget",
      description = "Remove a source and everything Mnemex created in its database.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Example: mnemex source forget garden --run",
        "Without --run the statements are only printed. Indexes go first: mnemex remove index NAME"
      })
  static final class Forget implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "NAME", description = "the source")
    private String name = "";

    @Option(names = "--run", description = "run the statements")
    private boolean run;

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        SourceStatements statements = client.source(name).forget(run);
        if (service.json()) {
          service.printJson(statements);
        } else {
          printStatements(service, statements);
        }
        return ExitCode.DONE;
      }
    }
  }
}
