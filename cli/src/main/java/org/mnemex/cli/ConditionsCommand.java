package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.mnemex.client.ConditionsTold;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "conditions",
    description =
        "List what somebody should know of now, such as an index behind its source, and whether"
            + " messages about it arrive. Limits and channels are settings of the service.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex conditions", "         mnemex conditions --test"})
final class ConditionsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @ArgGroup(exclusive = true)
  private Wanted wanted = new Wanted();

  /** One of them. */
  private static final class Wanted {
    @Option(names = "--ended", description = "list the last 50 that have ended")
    private boolean ended;

    @Option(names = "--test", description = "send a test message over every channel")
    private boolean test;
  }

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      if (wanted.test) {
        return test(client.conditions().test());
      }
      ConditionsTold told = client.conditions().list();
      if (service.json()) {
        service.printJson(told);
      } else {
        print(wanted.ended ? told.ended() : told.held());
        print(told);
      }
      return ExitCode.DONE;
    }
  }

  private int test(List<ConditionsTold.Tried> tried) {
    if (service.json()) {
      service.printJson(tried);
    } else if (tried.isEmpty()) {
      service.out().println("Nobody is told: the service has no channels.");
    } else {
      Table table = new Table("channel", "test message");
      tried.forEach(
          one ->
              table.row(
                  one.channel(),
                  one.error() == null ? "arrived" : "did not arrive: " + one.error()));
      table.print(service.out());
    }
    return tried.stream().allMatch(one -> one.error() == null) ? ExitCode.DONE : ExitCode.FAILED;
  }

  private void print(List<ConditionsTold.Entry> entries) {
    if (entries.isEmpty()) {
      service.out().println(wanted.ended ? "Nothing has ended yet." : "All is well.");
      return;
    }
    Table table = new Table("what", "about", "when", "in words");
    for (ConditionsTold.Entry entry : entries) {
      table.row(
          entry.condition(),
          entry.about(),
          entry.ended() == null
              ? "since " + entry.since()
              : "from %s to %s".formatted(entry.since(), entry.ended()),
          entry.text());
    }
    table.print(service.out());
  }

  private void print(ConditionsTold told) {
    if (told.channels().isEmpty()) {
      service.out().println("Nobody is told: the service has no channels.");
    }
    for (ConditionsTold.Channel channel : told.channels()) {
      service
          .out()
          .printf(
              "Told over %s: %s%n",
              channel.name(),
              channel.error() != null
                  ? "%d waiting, the last one did not arrive: %s"
                      .formatted(channel.waiting(), channel.error())
                  : channel.arrived() == null
                      ? "no messages yet"
                      : "the last message arrived at " + channel.arrived());
    }
  }
}
