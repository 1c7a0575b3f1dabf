package org.mnemex.cli;

import java.util.concurrent.Callable;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

/** Controls how an index follows its source. */
@Command(
    name = "feed",
    description = "Pause or resume the feed of an index, or allow the removals it holds back.",
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    subcommands = {
      FeedCommand.Pause.class,
      FeedCommand.Resume.class,
      FeedCommand.Agree.class,
      FeedCommand.Position.class
    })
final class FeedCommand {
  /** A command to a feed. */
  abstract static class Act implements Callable<Integer> {
    @Mixin private Service service = new Service();
    @Mixin private IndexOption index = new IndexOption();

    abstract IndexStatus act(MnemexClient client, String name);

    abstract String said();

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        IndexStatus status = act(client, index.name(client));
        if (service.json()) {
          service.printJson(status);
        } else {
          service.out().println(said().formatted(status.name()));
        }
        return ExitCode.DONE;
      }
    }
  }

  @Command(
      name = "pause",
      description = "Stop following the source. Searches keep working.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex feed pause", "The source keeps changes in the meantime."})
  static final class Pause extends Act {
    @Override
    IndexStatus act(MnemexClient client, String name) {
      return client.pauseFeed(name);
    }

    @Override
    String said() {
      return "The feed of index '%s' is paused until: mnemex feed resume";
    }
  }

  @Command(
      name = "resume",
      description = "Resume a paused feed.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex feed resume"})
  static final class Resume extends Act {
    @Override
    IndexStatus act(MnemexClient client, String name) {
      return client.resumeFeed(name);
    }

    @Override
    String said() {
      return "The feed of index '%s' is running.";
    }
  }

  @Command(
      name = "agree",
      description = "Approve held removals for the next ten minutes.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex feed agree", "'mnemex status' says what is held back."})
  static final class Agree extends Act {
    @Override
    IndexStatus act(MnemexClient client, String name) {
      return client.agree(name);
    }

    @Override
    String said() {
      return "Index '%s': held removals are approved.";
    }
  }

  @Command(
      name = "position",
      description = "Print the current position of the source.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Example: mnemex search plant-search fern --true-for \"$(mnemex feed position)\"",
        "The search then waits until the index includes it."
      })
  static final class Position implements Callable<Integer> {
    @Mixin private Service service = new Service();
    @Mixin private IndexOption index = new IndexOption();

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        service.out().println(client.position(index.name(client)));
        return ExitCode.DONE;
      }
    }
  }
}
