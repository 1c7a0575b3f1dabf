package org.mnemex.cli;

import java.util.List;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Which index a command is about. */
final class IndexOption {
  @Option(
      names = {"-i", "--index"},
      paramLabel = "NAME",
      description = "the index; may be left out if there is only one")
  private @Nullable String index;

  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec = CommandSpec.create();

  String name(MnemexClient client) {
    if (index != null) {
      return index;
    }
    List<IndexStatus> indexes = client.indexes();
    if (indexes.size() != 1) {
      throw new CommandLine.ParameterException(
          spec.commandLine(),
          "there are %d indexes; say which one with --index".formatted(indexes.size()));
    }
    return indexes.getFirst().name();
  }
}
