package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SourceCheck;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

/** Writes the definition of a source to a file and applies it. */
@Command(
    name = "add",
    description = "Write the definition of a source to a file, apply it, and test the connection.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex source add garden postgres --database garden --user mnemex --password-env MNEMEX_GARDEN_PASSWORD",
      "The service reads the password from its own environment; it is never stored."
    })
final class SourceAddCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(index = "0", paramLabel = "NAME", description = "the source's name")
  private String name = "";

  @Parameters(index = "1", paramLabel = "KIND", description = "sqlite, postgres, mariadb or push")
  private String kind = "";

  @Option(names = "--file", paramLabel = "FILE", description = "the database file of SQLite")
  private @Nullable String file;

  @Option(names = "--host", description = "where the server is (default: 127.0.0.1)")
  private @Nullable String host;

  @Option(names = "--port", description = "its port (default: the usual one)")
  private @Nullable Integer port;

  @Option(names = "--database", description = "the database")
  private @Nullable String database;

  @Option(names = "--schema", description = "the schema (default: public)")
  private @Nullable String schema;

  @Option(names = "--user", description = "the database user of Mnemex")
  private @Nullable String user;

  @Option(
      names = "--password-env",
      paramLabel = "VARIABLE",
      description = "environment variable of the service that holds the password")
  private @Nullable String passwordVariable;

  @Option(names = "--capture", description = "log, journal or poll (default: log, or journal)")
  private @Nullable String capture;

  @Option(
      names = "--prepare",
      description =
          "automatic: create what is needed in the database; ask: only report it (default)")
  private @Nullable String prepare;

  @Option(
      names = "--out",
      paramLabel = "FILE",
      description = "where to write the definition (default: NAME.source.yaml)")
  private @Nullable Path out;

  @Override
  public Integer call() throws IOException {
    Path target = out == null ? Path.of(name + ".source.yaml") : out;
    if (Files.exists(target)) {
      throw new ParameterException(
          spec.commandLine(), target + " exists already; edit it and run: mnemex apply " + target);
    }
    String text = text();
    try (MnemexClient client = service.client()) {
      client.apply(Map.of(target.toString(), text));
      Files.writeString(target, text);
      service.out().println("Wrote " + target + " and applied it.");
      SourceCheck check = client.source(name).check();
      if (!check.reachable()) {
        service.out().println("The source does not answer yet: " + check.problem());
        return ExitCode.FAILED;
      }
      service
          .out()
          .println(
              "It answers. See its tables: mnemex source tables %1$s; propose an index: mnemex draft %1$s TABLE"
                  .formatted(name));
      return ExitCode.DONE;
    }
  }

  private String text() {
    StringBuilder yaml = new StringBuilder();
    line(yaml, "source", name);
    line(yaml, "kind", kind);
    line(yaml, "file", file);
    line(yaml, "host", host);
    line(yaml, "port", port == null ? null : port.toString());
    line(yaml, "database", database);
    line(yaml, "schema", schema);
    line(yaml, "user", user);
    line(yaml, "password", passwordVariable == null ? null : "${" + passwordVariable + "}");
    line(yaml, "capture", capture);
    line(yaml, "prepare", prepare);
    return yaml.toString();
  }

  private static void line(StringBuilder yaml, String key, @Nullable String value) {
    if (value != null) {
      boolean plain = value.matches("[A-Za-z0-9_./-]+|\\$\\{[A-Za-z0-9_]+}");
      yaml.append(key)
          .append(": ")
          .append(plain ? value : "'" + value.replace("'", "''") + "'")
          .append('\n');
    }
  }
}
