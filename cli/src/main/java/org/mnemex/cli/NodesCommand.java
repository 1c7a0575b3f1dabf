package org.mnemex.cli;

import java.util.List;
import java.util.concurrent.Callable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.NodeEntry;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;

@Command(
    name = "nodes",
    description = "List the search nodes that report to a builder, with what they answer with.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "The lag is the time from publishing the last state of an edition until the node had it.",
      "Exit code 1 if a node is away or something is wrong with it.",
      "",
      "Example: mnemex nodes"
    })
final class NodesCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Override
  public Integer call() {
    try (MnemexClient client = service.client()) {
      List<NodeEntry> nodes = client.nodes();
      if (service.json()) {
        service.printJson(nodes);
      } else if (nodes.isEmpty()) {
        service
            .out()
            .println("No search node reports to this service. Nodes with mnemex.node.builder do.");
      } else {
        print(nodes);
      }
      boolean isWell =
          nodes.stream().allMatch(node -> node.state().equals("here") && node.problem() == null);
      return isWell ? ExitCode.DONE : ExitCode.FAILED;
    }
  }

  private void print(List<NodeEntry> nodes) {
    Table table = new Table("node", "state", "index", ">edition", "true at", ">size", ">lag");
    for (NodeEntry node : nodes) {
      if (node.editions().isEmpty()) {
        table.row(node.name(), node.state(), "-", "-", "-", "-", "-");
      }
      for (NodeEntry.Edition edition : node.editions()) {
        table.row(
            node.name(),
            node.state(),
            StoreCommand.index(edition.index(), edition.shard()),
            edition.edition(),
            edition.trueAt() == null ? "-" : edition.trueAt(),
            BackupCommand.size(edition.bytes()),
            edition.lagMillis() == null ? "-" : "%,d ms".formatted(edition.lagMillis()));
      }
    }
    table.print(service.out());
    for (NodeEntry node : nodes) {
      if (node.problem() != null) {
        service.out().println("Problem of " + node.name() + ": " + node.problem());
      }
    }
  }
}
