package org.mnemex.cli;

import java.util.concurrent.Callable;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Switches to another edition of an index. */
abstract class SwitchCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  abstract IndexStatus act(MnemexClient client, String name);

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      IndexStatus status = act(client, index.name(client));
      if (service.json()) {
        service.printJson(status);
        return ExitCode.DONE;
      }
      IndexStatus.Edition live = status.live();
      if (live != null) {
        service
            .out()
            .println(
                "Edition %d of index '%s' is live now, with version %d of its definition."
                    .formatted(live.number(), status.name(), status.version()));
      }
      IndexStatus.Edition former = status.former();
      if (former != null) {
        service
            .out()
            .println(
                "Edition %d is kept and fed until %s; to restore it: mnemex rollback"
                    .formatted(former.number(), former.until()));
      }
      return ExitCode.DONE;
    }
  }

  @Command(
      name = "promote",
      description = "Promote the waiting edition, without interrupting queries.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex promote --index plants"})
  static final class Promote extends SwitchCommand {
    @Override
    IndexStatus act(MnemexClient client, String name) {
      return client.promote(name);
    }
  }

  @Command(
      name = "rollback",
      description = "Make the previous edition live again. It has every change made since.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex rollback --index plants"})
  static final class Rollback extends SwitchCommand {
    @Override
    IndexStatus act(MnemexClient client, String name) {
      return client.rollback(name);
    }
  }
}
