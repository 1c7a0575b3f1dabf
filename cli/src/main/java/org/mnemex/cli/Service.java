package org.mnemex.cli;

import java.io.IOException;
import java.io.PrintWriter;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.ClientOptions;
import org.mnemex.client.MnemexClient;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** Shared by all commands that call the service: its address and printing. */
final class Service {
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  private static final String USUAL = "http://127.0.0.1:7077";

  @Option(
      names = "--url",
      paramLabel = "URL",
      description = "the address of the service (default: MNEMEX_URL, or http://127.0.0.1:7077)")
  private @Nullable URI url;

  @Option(
      names = "--service",
      paramLabel = "NAME",
      description =
          "a service of ~/.config/mnemex/services.yaml, with its address and key (default:"
              + " MNEMEX_SERVICE)")
  private @Nullable String name;

  @Option(
      names = "--key-file",
      paramLabel = "FILE",
      description = "a file with the key to call with (default: the key in MNEMEX_KEY)")
  private @Nullable Path keyFile;

  @Option(
      names = "--ca-file",
      paramLabel = "FILE",
      description =
          "certificates (PEM) of the authorities that are trusted with https (default:"
              + " MNEMEX_CA_FILE, or those that Java knows)")
  private @Nullable Path caFile;

  @Option(names = "--json", description = "print JSON for programs")
  private boolean json;

  @Spec(Spec.Target.MIXEE)
  private CommandSpec spec = CommandSpec.create();

  MnemexClient client() {
    KnownServices.Known known = known();
    ClientOptions options =
        ClientOptions.usual()
            .author(author())
            .key(key(keyFile == null ? known.keyFile() : keyFile));
    Path trusted = authorities(caFile == null ? known.caFile() : caFile);
    return new MnemexClient(known.url(), trusted == null ? options : options.authorities(trusted));
  }

  /** What is said in the command goes before the environment, and that before the file. */
  private KnownServices.Known known() {
    if (url != null) {
      return KnownServices.Known.at(url);
    }
    String fromEnvironment = System.getenv("MNEMEX_URL");
    String wanted = name == null ? System.getenv("MNEMEX_SERVICE") : name;
    if (wanted == null && fromEnvironment != null) {
      return KnownServices.Known.at(URI.create(fromEnvironment));
    }
    try {
      KnownServices.Known found =
          KnownServices.read(KnownServices.usualFile(System.getenv())).find(wanted);
      return found == null ? KnownServices.Known.at(URI.create(USUAL)) : found;
    } catch (IllegalArgumentException e) {
      throw new CommandLine.ParameterException(
          spec.commandLine(), String.valueOf(e.getMessage()), e);
    }
  }

  /** Not an option: the arguments of a process are no secret. */
  private static @Nullable String key(@Nullable Path file) {
    if (file == null) {
      return System.getenv("MNEMEX_KEY");
    }
    try {
      return Files.readString(file).strip();
    } catch (IOException e) {
      throw new UncheckedIOException("the key file " + file + " cannot be read", e);
    }
  }

  private static @Nullable Path authorities(@Nullable Path file) {
    String fromEnvironment = System.getenv("MNEMEX_CA_FILE");
    return file != null || fromEnvironment == null ? file : Path.of(fromEnvironment);
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
