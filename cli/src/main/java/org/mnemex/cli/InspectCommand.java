package org.mnemex.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.mnemex.engine.inspect.FolderReport;
import org.mnemex.engine.inspect.Part;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;
import tools.jackson.databind.json.JsonMapper;

@Command(
    name = "inspect",
    description = {
      "Show what the folder of an edition holds, part by part, and compare every byte with its"
          + " checksum. No service is needed; one may use the folder meanwhile.",
      "Exits with 1 if something is damaged."
    },
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex inspect mnemex-data/indexes/plants/edition-1"})
final class InspectCommand implements Callable<Integer> {
  @Parameters(index = "0", paramLabel = "FOLDER", description = "the folder of an edition")
  private Path folder = Path.of("");

  @Option(names = "--json", description = "print JSON for programs")
  private boolean json;

  @Spec private CommandSpec spec = CommandSpec.create();

  @Override
  public Integer call() throws IOException {
    FolderReport report = FolderReport.of(folder);
    TerminalWriter out = new TerminalWriter(spec.commandLine().getOut());
    if (json) {
      out.println(new JsonMapper().writeValueAsString(report));
    } else {
      print(report, out);
    }
    return report.damage().isEmpty() ? ExitCode.DONE : ExitCode.FAILED;
  }

  private static void print(FolderReport report, TerminalWriter out) {
    long documents = 0;
    long deleted = 0;
    Table segments = new Table(">segment", ">documents", ">deleted", ">size");
    for (FolderReport.SegmentPart segment : report.segments()) {
      documents += segment.documents() - segment.deleted();
      deleted += segment.deleted();
      segments.row(
          segment.id(),
          "%,d".formatted(segment.documents()),
          "%,d".formatted(segment.deleted()),
          BackupCommand.size(segment.bytes()));
    }
    out.printf(
        "Commit %d: %s in %s, and %s.%n%n",
        report.commit(),
        Counted.of(documents, "document"),
        Counted.of(report.segments().size(), "segment"),
        Counted.of(deleted, "deleted one"));
    segments.print(out);
    out.println();
    SizeTables.print(
        Part.byWord(report.bytes()),
        report.fields().stream()
            .map(
                field ->
                    new SizeTables.FieldRow(
                        field.name(), field.terms(), Part.byWord(field.bytes())))
            .toList(),
        out);
    if (!report.unused().isEmpty()) {
      out.printf(
          "Not needed by this commit: %s, which the service removes.%n",
          Counted.of(report.unused().size(), "file"));
    }
    if (report.damage().isEmpty()) {
      out.println("Every byte is as it was written.");
    }
    report.damage().forEach(what -> out.println("Damaged: " + what));
  }
}
