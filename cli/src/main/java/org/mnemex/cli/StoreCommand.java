package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.StoreStatus;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

@Command(
    name = "store",
    description =
        "Show which editions a builder publishes for other machines, or a search node follows, and"
            + " what is wrong with that.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Exit code 1 if nothing is published or followed now.",
      "",
      "Example: mnemex store",
      "         MNEMEX_URL=http://127.0.0.1:7078 mnemex store"
    })
final class StoreCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      StoreStatus store = client.store();
      if (service.json()) {
        service.printJson(store);
      } else if (store.place() == null) {
        service
            .out()
            .println(
                "Nothing is published: the service has no store. Its settings are under mnemex.store.");
      } else {
        print(store);
      }
      return store.place() == null || store.problem() != null ? ExitCode.FAILED : ExitCode.DONE;
    }
  }

  /** An index, and which shard of it, if it is divided. */
  static String index(String index, @Nullable Integer shard) {
    return shard == null ? index : index + ", shard " + shard;
  }

  private void print(StoreStatus store) {
    service
        .out()
        .println(
            store.turn() == null
                ? "Follows " + store.place()
                : "Publishes to %s, turn %d".formatted(store.place(), store.turn()));
    if (store.shards() != null) {
      service.out().println("Divided into %d shards".formatted(store.shards()));
    }
    if (store.problem() != null) {
      service.out().println("Problem: " + store.problem());
    }
    StoreStatus.BuilderLink builder = store.builder();
    if (builder != null) {
      service
          .out()
          .println(
              builder.problem() == null
                  ? "News from " + builder.address()
                  : "No news: " + builder.problem());
    }
    StoreStatus.Traffic traffic = store.traffic();
    if (traffic != null) {
      service
          .out()
          .printf(
              "%,d requests, %s read, %s written since the start%n",
              traffic.requests(),
              BackupCommand.size(traffic.readBytes()),
              BackupCommand.size(traffic.writtenBytes()));
    }
    if (store.nodes() != null) {
      printNodes(store.nodes());
    }
    if (store.editions().isEmpty()) {
      service.out().println(store.nodes() == null ? "No edition yet." : "No shard is here.");
      return;
    }
    Table table = new Table("index", ">edition", "", "true at", ">files", ">size");
    for (StoreStatus.Edition edition : store.editions()) {
      table.row(
          index(edition.index(), edition.shard()),
          edition.edition(),
          edition.live() ? "live" : "",
          edition.trueAt() == null ? "-" : edition.trueAt(),
          "%,d".formatted(edition.files()),
          BackupCommand.size(edition.bytes()));
    }
    table.print(service.out());
  }

  private void printNodes(List<StoreStatus.Node> nodes) {
    for (StoreStatus.Node node : nodes) {
      String shards = node.shards().stream().map(String::valueOf).collect(Collectors.joining(", "));
      service
          .out()
          .printf(
              "Node %s at %s, %s%n",
              node.name(),
              node.address(),
              node.problem() == null
                  ? shards.isEmpty() ? "without shards" : "with shards " + shards
                  : "does not answer: " + node.problem());
    }
  }
}
