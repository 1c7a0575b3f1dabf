package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.KeyEntry;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.NewKey;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Keys: who may do what. */
@Command(
    name = "keys",
    description = "List, create, revoke and replace the keys that callers need.",
    mixinStandardHelpOptions = true,
    synopsisSubcommandLabel = "COMMAND",
    subcommands = {
      KeysCommand.ListKeys.class,
      KeysCommand.Create.class,
      KeysCommand.Revoke.class,
      KeysCommand.Rotate.class
    })
final class KeysCommand {
  @Command(
      name = "list",
      description = "List all keys, without their secrets.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex keys list"})
  static final class ListKeys implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        List<KeyEntry> keys = client.access().keys();
        if (service.json()) {
          service.printJson(keys);
          return ExitCode.DONE;
        }
        Table table = new Table("id", "name", "right", "limits", "state", "last used", "expires");
        for (KeyEntry key : keys) {
          table.row(
              key.id(),
              key.name(),
              key.right(),
              limits(key),
              key.state(),
              key.lastUsed() == null ? "never" : key.lastUsed(),
              key.expires() == null ? "never" : key.expires());
        }
        table.print(service.out());
        return ExitCode.DONE;
      }
    }

    private static String limits(KeyEntry key) {
      StringBuilder limits = new StringBuilder();
      if (!key.right().equals("admin") && !key.right().equals("read")) {
        limits.append(
            String.join(", ", key.right().equals("write") ? key.indexes() : key.endpoints()));
      }
      if (key.filter() != null) {
        limits.append(" where ").append(key.filter());
      }
      if (!key.origins().isEmpty()) {
        limits.append(" on ").append(String.join(", ", key.origins()));
      }
      if (!key.networks().isEmpty()) {
        limits.append(" from ").append(String.join(", ", key.networks()));
      }
      if (key.perMinute() != null) {
        limits.append(' ').append(key.perMinute()).append("/min");
      }
      return limits.toString().strip();
    }
  }

  @Command(
      name = "create",
      description = "Create a key and print it. It is shown only once.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Example: mnemex keys create shop --right search --endpoint plant-search",
        "         mnemex keys create importer --right write --index tools --expires 90d"
      })
  static final class Create implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "NAME", description = "what people call it")
    private String name = "";

    @Option(
        names = "--right",
        required = true,
        paramLabel = "RIGHT",
        description = "admin, read, write, search or node")
    private String right = "";

    @Option(
        names = "--endpoint",
        description = "for search: an endpoint; may be repeated, * for all")
    private @Nullable List<String> endpoints;

    @Option(names = "--index", description = "for write: an index; may be repeated, * for all")
    private @Nullable List<String> indexes;

    @Option(names = "--filter", description = "for search: a filter that every search must meet")
    private @Nullable String filter;

    @Option(names = "--origin", description = "for search: pages that may use it; may be repeated")
    private @Nullable List<String> origins;

    @Option(names = "--network", description = "where it may be used from, such as 10.0.0.0/8")
    private @Nullable List<String> networks;

    @Option(names = "--per-minute", paramLabel = "N", description = "the most calls in a minute")
    private @Nullable Integer perMinute;

    @Option(names = "--expires", paramLabel = "WHEN", description = "such as 90d, or a time")
    private @Nullable String expires;

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        return print(
            service,
            client
                .access()
                .create(
                    new KeyRequest(
                        name, right, indexes, endpoints, filter, origins, networks, perMinute,
                        expires)));
      }
    }
  }

  @Command(
      name = "revoke",
      description = "Revoke a key. It stops working at once.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex keys revoke k7qm2x9f"})
  static final class Revoke implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "ID", description = "the key's identifier, as 'keys list' shows it")
    private String id = "";

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        KeyEntry key = client.access().revoke(id);
        if (service.json()) {
          service.printJson(key);
        } else {
          service.out().println("Key %s (%s) is revoked.".formatted(key.id(), key.name()));
        }
        return ExitCode.DONE;
      }
    }
  }

  @Command(
      name = "rotate",
      description = "Create a key in the place of another, which still works for a while.",
      mixinStandardHelpOptions = true,
      footer = {"", "Example: mnemex keys rotate k7qm2x9f --overlap 1d"})
  static final class Rotate implements Callable<Integer> {
    @Mixin private Service service = new Service();

    @Parameters(paramLabel = "ID", description = "the key's identifier, as 'keys list' shows it")
    private String id = "";

    @Option(
        names = "--overlap",
        paramLabel = "DURATION",
        description = "how long the old key still works (default: ${DEFAULT-VALUE})")
    private String overlap = "1h";

    @Override
    public Integer call() {
      try (MnemexClient client = service.client()) {
        return print(service, client.access().rotate(id, overlap));
      }
    }
  }

  private static int print(Service service, NewKey made) {
    if (service.json()) {
      service.printJson(made);
    } else {
      service
          .out()
          .println(
              "Key %s (%s) has the right %s. Keep it now; it is not shown again:"
                  .formatted(made.key().id(), made.key().name(), made.key().right()));
      service.out().println(made.secret());
    }
    return ExitCode.DONE;
  }
}
