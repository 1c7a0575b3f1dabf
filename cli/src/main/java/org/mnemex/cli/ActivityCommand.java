package org.mnemex.cli;

import java.io.IOException;
import java.io.InputStream;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.ActivityEntry;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "activity",
    description =
        "List administrative acts with their callers, newest first; refused ones included.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex activity --refused",
      "         mnemex activity --ndjson > activity.ndjson"
    })
final class ActivityCommand implements Callable<Integer> {
  private static final int OK = 400;

  @Mixin private Service service = new Service();

  @Option(names = "--key", paramLabel = "ID", description = "only acts with this key")
  private String key = "";

  @Option(names = "--refused", description = "only acts that were refused or failed")
  private boolean refused;

  @Option(names = "--limit", paramLabel = "N", description = "default: ${DEFAULT-VALUE}")
  private int limit = 30;

  @Option(names = "--before", paramLabel = "NUMBER", description = "continue before this act")
  private @Nullable Long before;

  @Option(
      names = "--ndjson",
      description = "export all acts that the log still has, one JSON object on each line")
  private boolean lines;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client()) {
      if (lines) {
        try (InputStream acts = client.access().exportActivity(key, refused)) {
          service.out().flush();
          acts.transferTo(System.out);
          System.out.flush();
        }
        return ExitCode.DONE;
      }
      List<ActivityEntry> acts = client.access().activity(before, key, refused, limit);
      if (service.json()) {
        service.printJson(acts);
      } else {
        Table table = new Table(">no", "at", "caller", "key", "from", "act", "result");
        for (ActivityEntry act : acts) {
          table.row(
              Long.toString(act.id()),
              act.at(),
              act.caller(),
              act.keyId(),
              act.address(),
              act.act(),
              act.status() < OK ? "done" : "refused: " + act.status());
        }
        table.print(service.out());
      }
      return ExitCode.DONE;
    }
  }
}
