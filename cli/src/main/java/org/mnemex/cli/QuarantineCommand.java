package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.QuarantinedRecord;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;

@Command(
    name = "quarantine",
    description = "List records that could not be read or mapped, with the reason.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex quarantine --retry"})
final class QuarantineCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Spec private CommandSpec spec = CommandSpec.create();

  @Parameters(arity = "0..1", paramLabel = "KEY", description = "one record; default: all")
  private @Nullable String key;

  @Option(names = "--retry", description = "read them again")
  private boolean retry;

  @Option(
      names = "--dismiss",
      description = "dismiss one: it stays in quarantine and is listed last")
  private boolean dismiss;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      String name = index.name(client);
      if (dismiss) {
        if (key == null) {
          throw new ParameterException(spec.commandLine(), "--dismiss needs the key of a record");
        }
        client.dismiss(name, key);
        service.out().println("Record '%s' is dismissed.".formatted(key));
        return ExitCode.DONE;
      }
      if (retry) {
        int records = client.retryQuarantine(name, key);
        service
            .out()
            .println(
                records == 0
                    ? "No record is in quarantine."
                    : "%,d %s being read again; 'mnemex quarantine' shows what is left."
                        .formatted(records, records == 1 ? "record is" : "records are"));
        return ExitCode.DONE;
      }
      List<QuarantinedRecord> records =
          client.quarantine(name).stream()
              .filter(record -> key == null || record.recordKey().equals(key))
              .toList();
      if (service.json()) {
        service.printJson(records);
      } else if (records.isEmpty()) {
        service.out().println("No record is in quarantine.");
      } else {
        Table table = new Table("record", "since", "reason");
        records.forEach(
            r ->
                table.row(
                    r.recordKey(), r.since(), (r.dismissed() ? "(dismissed) " : "") + r.reason()));
        table.print(service.out());
      }
      return ExitCode.DONE;
    }
  }
}
