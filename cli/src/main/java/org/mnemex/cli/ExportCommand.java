package org.mnemex.cli;

import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "export",
    description = "Write all stored records of an index as lines of JSON.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example: mnemex export -i plants --out plants.ndjson"})
final class ExportCommand implements Callable<Integer> {
  @Mixin private Service service = new Service();
  @Mixin private IndexOption index = new IndexOption();

  @Option(names = "--out", paramLabel = "FILE", description = "default: standard output")
  private @Nullable Path out;

  @Override
  public Integer call() throws IOException {
    try (MnemexClient client = service.client();
        InputStream records = client.export(index.name(client))) {
      if (out == null) {
        service.out().flush();
        records.transferTo(System.out);
        System.out.flush();
      } else {
        try (OutputStream file = Files.newOutputStream(out)) {
          records.transferTo(file);
        }
        service.out().println("Wrote " + out + ".");
      }
      return ExitCode.DONE;
    }
  }
}
