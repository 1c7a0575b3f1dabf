package org.mnemex.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** Shared by all commands that call the service: its address and printing. */
final class Service {
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  @Option(
      names = "--url",
      paramLabel = "URL",
      description = "the service (default: ${DEFAULT-VALUE}, or MNEMEX_URL)",
      defaultValue = "${env:MNEMEX_URL:-http://127.0.0.1:7077}")
  private URI url = URI.create("http://127.0.0.1:7077");

  @Option(
      names = "--key-file",
      paramLabel = "FILE",
      description = "a file with the key to call with (default: the key in MNEMEX_KEY)")
  private @Nullable Path keyFile;

  @Option(names = "--json", description = "print JSON for programs")
  private boolean json;

  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec = CommandSpec.create();

  MnemexClient client() {
    return new MnemexClient(url, author(), key());
  }

  /** Not an option: the arguments of a process are no secret. */
  private @Nullable String key() {
    if (keyFile == null) {
      return System.getenv("MNEMEX_KEY");
    }
    try {
      return Files.readString(keyFile).strip();
    } catch (IOException e) {
      throw new UncheckedIOException("the key file " + keyFile + " cannot be read", e);
    }
  }

  /** Who is at this terminal, as a mail address would say it. */
  private static String author() {
    String host = System.getenv("HOSTNAME");
    return System.getProperty("user.name") + "@" + (host == null ? "localhost" : host);
  }

  boolean json() {
    return json;
  }

  PrintWriter out() {
    return new TerminalWriter(spec.commandLine().getOut());
  }

  void printJson(Object value) {
    out().println(JSON.writeValueAsString(value));
  }

  /** Text with picocli's markup, as the terminal can show it. */
  String styled(String markup) {
    return spec.commandLine().getColorScheme().ansi().string(markup);
  }
}
