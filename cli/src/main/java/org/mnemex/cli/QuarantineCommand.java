package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.QuarantinedRecord;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "quarantine",
    description = "List records that could not be read or mapped, with the reason.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex quarantine --retry"})
final class QuarantineCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Option(names = "--retry", description = "let the feed read them again")
  private boolean retry;

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      String name = index.name(client);
      if (retry) {
        int records = client.retryQuarantine(name);
        service
            .out()
            .println(
                records == 0
                    ? "No record is in quarantine."
                    : "%,d records are read again; 'mnemex quarantine' shows what is left."
                        .formatted(records));
        return ExitCode.DONE;
      }
      List<QuarantinedRecord> records = client.quarantine(name);
      if (service.json()) {
        service.printJson(records);
      } else if (records.isEmpty()) {
        service.out().println("No record is in quarantine.");
      } else {
        Table table = new Table("record", "since", "reason");
        records.forEach(r -> table.row(r.recordKey(), r.since(), r.reason()));
        table.print(service.out());
      }
      return ExitCode.DONE;
    }
  }
}
