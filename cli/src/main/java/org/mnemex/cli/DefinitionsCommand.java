package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.DefinitionEntry;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.VersionsCompared;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

@Command(
    name = "definitions",
    description =
        "List the current definitions, or the versions of one; print one, or write all to files"
            + " that 'apply' takes back.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Example: mnemex definitions --out wanted",
      "         mnemex definitions index plants --version 1",
      "         mnemex definitions index plants --version 1 --against 2"
    })
final class DefinitionsCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();

  @Parameters(
      index = "0",
      arity = "0..1",
      paramLabel = "KIND",
      description = "source, analyser, synonyms, index, phrases, endpoint, curation or scorecard")
  private @Nullable String kind;

  @Parameters(index = "1", arity = "0..1", paramLabel = "NAME")
  private @Nullable String name;

  @Option(names = "--version", paramLabel = "N", description = "print this version of it")
  private @Nullable Integer version;

  @Option(
      names = "--against",
      paramLabel = "N",
      description = "with --version: compare with that version")
  private @Nullable Integer against;

  @Option(
      names = "--out",
      paramLabel = "FOLDER",
      description = "write the current definitions, one file each")
  private @Nullable Path out;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client()) {
      if (against != null && (name == null || version == null)) {
        throw new IOException("--against needs KIND, NAME and --version");
      }
      if (kind != null && name != null && version != null && against != null) {
        compare(client.differences(kind, name, version, against));
        return ExitCode.DONE;
      }
      List<DefinitionEntry> entries =
          kind == null || name == null ? client.definitions() : client.versions(kind, name);
      if (out != null) {
        write(client.definitions(), out);
      } else if (version != null) {
        print(entries, version);
      } else if (service.json()) {
        service.printJson(entries);
      } else {
        print(entries);
      }
      return ExitCode.DONE;
    }
  }

  private void compare(VersionsCompared compared) {
    if (service.json()) {
      service.printJson(compared);
      return;
    }
    if (compared.lines().isEmpty() && compared.differences().isEmpty()) {
      service.out().println("They are equal.");
    }
    Table table = new Table("takes", "what", "why");
    compared.differences().forEach(one -> table.row(one.cost(), one.path(), one.reason()));
    if (!compared.differences().isEmpty()) {
      table.print(service.out());
      service.out().println();
    }
    compared.lines().forEach(service.out()::println);
  }

  private void print(List<DefinitionEntry> entries, int wanted) throws IOException {
    DefinitionEntry found =
        entries.stream()
            .filter(entry -> entry.version() == wanted && entry.name().equals(name))
            .findFirst()
            .orElseThrow(() -> new IOException("there is no version %d of it".formatted(wanted)));
    service.out().print(found.text());
  }

  private void print(List<DefinitionEntry> entries) {
    Table table = new Table("kind", "name", ">version", "since", "by", "file");
    for (DefinitionEntry entry : entries) {
      table.row(
          entry.kind(),
          entry.name(),
          entry.version(),
          entry.createdAt(),
          entry.author(),
          entry.file());
    }
    table.print(service.out());
  }

  private void write(List<DefinitionEntry> entries, Path folder) throws IOException {
    Map<Path, String> files = new LinkedHashMap<>();
    for (DefinitionEntry entry : entries) {
      files.put(folder.resolve("%s-%s.yaml".formatted(entry.kind(), entry.name())), entry.text());
    }
    Files.createDirectories(folder);
    for (Map.Entry<Path, String> file : files.entrySet()) {
      Files.writeString(file.getKey(), file.getValue());
    }
    service
        .out()
        .println(Counted.of(files.size(), "definition is", "definitions are") + " in " + folder);
  }
}
