package org.mnemex.e2e;

import java.io.IOException;
import java.net.ServerSocket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.ClientOptions;
import org.mnemex.client.MnemexClient;

/** The packaged service as a process of its own in a folder of its own, on a free port. */
final class RunningService implements AutoCloseable {
  /** Made up, and of the form that keys have. */
  static final String FIRST_KEY = "mnemex_firstkey_0123456789abcdefghijklmnopqrstuvwxyzABCDEFG";

  private static final long PATIENCE_SECONDS = 300;

  final Path folder;
  final int port;
  final URI url;
  final MnemexClient client;
  private final HttpClient http = HttpClient.newHttpClient();
  private final Map<String, String> environment;
  private final List<String> arguments;
  private volatile Process process;

  private RunningService(
      Path folder,
      int port,
      Map<String, String> environment,
      List<String> arguments,
      @Nullable String key,
      @Nullable Path authority)
      throws IOException {
    this.folder = folder;
    this.environment = environment;
    this.arguments = arguments;
    this.port = port;
    this.url = URI.create((authority == null ? "http" : "https") + "://127.0.0.1:" + port);
    ClientOptions options = ClientOptions.usual().key(key);
    this.client =
        new MnemexClient(url, authority == null ? options : options.authorities(authority));
    this.process = launch();
  }

  static RunningService start(Path folder) throws IOException {
    return start(folder, Map.of());
  }

  /**
   * @param environment variables that definitions may name
   */
  static RunningService start(Path folder, Map<String, String> environment) throws IOException {
    return start(folder, environment, List.of(), null);
  }

  /** With settings, such as {@code --mnemex.conditions.away=1s}. */
  static RunningService configured(Path folder, String... settings) throws IOException {
    return start(folder, Map.of(), List.of(settings), null);
  }

  /**
   * With settings.
   *
   * @param environment variables that definitions may name
   */
  static RunningService configured(
      Path folder, Map<String, String> environment, List<String> settings) throws IOException {
    return start(folder, environment, settings, null);
  }

  /** With keys; {@link #client} has the right to do everything. */
  static RunningService secured(Path folder, String... more) throws IOException {
    List<String> arguments = new ArrayList<>(List.of("--mnemex.keys=true"));
    arguments.addAll(List.of(more));
    return start(folder, Map.of("MNEMEX_FIRST_KEY", FIRST_KEY), arguments, FIRST_KEY);
  }

  /**
   * With the environment of a container.
   *
   * @param key what {@link #client} has the right by; null for none
   */
  static RunningService inContainer(
      Path folder, Map<String, String> environment, @Nullable String key) throws IOException {
    return start(folder, environment, List.of(), key);
  }

  /**
   * With a data folder of another place, such as a restored one.
   *
   * @param folder where relative paths of definitions begin
   */
  static RunningService startOn(Path folder, Path data) throws IOException {
    return configured(folder, "--mnemex.data=" + data);
  }

  /** With keys and TLS; {@link #client} has the right to do everything. */
  static RunningService encrypted(Path folder, Certificate certificate, String... more)
      throws IOException {
    List<String> arguments = new ArrayList<>(List.of("--mnemex.keys=true"));
    arguments.addAll(certificate.settings());
    arguments.addAll(List.of(more));
    return start(
        folder,
        Map.of("MNEMEX_FIRST_KEY", FIRST_KEY),
        arguments,
        FIRST_KEY,
        certificate.authority());
  }

  private static RunningService start(
      Path folder, Map<String, String> environment, List<String> arguments, @Nullable String key)
      throws IOException {
    return start(folder, environment, arguments, key, null);
  }

  private static RunningService start(
      Path folder,
      Map<String, String> environment,
      List<String> arguments,
      @Nullable String key,
      @Nullable Path authority)
      throws IOException {
    try (ServerSocket free = new ServerSocket(0)) {
      RunningService service =
          new RunningService(folder, free.getLocalPort(), environment, arguments, key, authority);
      free.close();
      service.awaitUp();
      return service;
    }
  }

  /** The repository's root. */
  static Path root() {
    Path at = Path.of("").toAbsolutePath();
    while (!Files.exists(at.resolve("mnemex"))) {
      at = at.getParent();
    }
    return at;
  }

  private Process launch() throws IOException {
    List<String> command = new ArrayList<>(Packaged.service());
    command.add("--server.port=" + port);
    // Some tests keep databases elsewhere, such as on a small disk.
    command.add("--mnemex.allow.folders=/");
    command.addAll(arguments);
    ProcessBuilder builder = new ProcessBuilder(command);
    builder.environment().putAll(environment);
    return builder
        .directory(folder.toFile())
        .redirectErrorStream(true)
        .redirectOutput(ProcessBuilder.Redirect.appendTo(folder.resolve("service.log").toFile()))
        .start();
  }

  private void awaitUp() throws IOException {
    await(
        () -> {
          if (!process.isAlive()) {
            throw new AssertionError("the service has ended:\n" + log());
          }
          return client.isUp();
        });
  }

  /** Its process, for signals. */
  long pid() {
    return process.pid();
  }

  /** Kills the service as a power cut would. */
  void kill() throws InterruptedException {
    process.destroyForcibly();
    process.waitFor();
  }

  /** Starts the service again in the same folder. */
  void restart() throws IOException {
    process = launch();
    awaitUp();
  }

  /** Asks the service to stop; its exit code. */
  int stop() throws InterruptedException {
    process.destroy();
    return process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS) ? process.exitValue() : -1;
  }

  String log() {
    try {
      return Files.readString(folder.resolve("service.log"));
    } catch (IOException e) {
      return e.toString();
    }
  }

  /** Applies the garden's definitions and waits until the index answers. */
  void applyGarden() throws IOException {
    client.apply(GardenFiles.definitions());
    awaitLive("plants");
  }

  void awaitLive(String index) {
    await(
        () ->
            client.indexes().stream()
                .anyMatch(i -> i.name().equals(index) && i.live() != null && i.next() == null));
  }

  /** Waits until an index says what the database said after this call, or later. */
  void awaitTrue(String index) {
    String now = Clock.systemUTC().instant().toString();
    await(
        () -> {
          var live = client.index(index).live();
          return live != null && live.trueAt() != null && live.trueAt().compareTo(now) > 0;
        });
  }

  /** Waits until a condition holds; fails after a generous time. */
  static void await(BooleanSupplier condition) {
    long deadline = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_SECONDS);
    while (!condition.getAsBoolean()) {
      if (System.nanoTime() > deadline) {
        throw new AssertionError("waited " + PATIENCE_SECONDS + " s in vain");
      }
      try {
        TimeUnit.MILLISECONDS.sleep(20);
      } catch (InterruptedException e) {
        throw new AssertionError(e);
      }
    }
  }

  /** Where it listens. */
  URI address() {
    return url;
  }

  HttpResponse<String> get(String path) throws IOException, InterruptedException {
    return http.send(
        HttpRequest.newBuilder(url.resolve(path)).build(), HttpResponse.BodyHandlers.ofString());
  }

  HttpResponse<String> post(String path, String body, String... headers)
      throws IOException, InterruptedException {
    HttpRequest.Builder request =
        HttpRequest.newBuilder(url.resolve(path))
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofString(body));
    for (int i = 0; i < headers.length; i += 2) {
      request.header(headers[i], headers[i + 1]);
    }
    return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
  }

  /**
   * @param method of HTTP, in any case
   */
  HttpResponse<String> send(String method, String path, String body, String... headers) {
    boolean bodiless =
        method.equalsIgnoreCase("get")
            || method.equalsIgnoreCase("options")
            || method.equalsIgnoreCase("head");
    try {
      HttpRequest.Builder request =
          HttpRequest.newBuilder(URI.create(url + path))
              .header("Content-Type", "application/json")
              .method(
                  method.toUpperCase(Locale.ROOT),
                  bodiless
                      ? HttpRequest.BodyPublishers.noBody()
                      : HttpRequest.BodyPublishers.ofString(body));
      for (int i = 0; i < headers.length; i += 2) {
        request.setHeader(headers[i], headers[i + 1]);
      }
      return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
    } catch (IOException | InterruptedException e) {
      throw new AssertionError(e);
    }
  }

  @Override
  public void close() {
    // First of all: closing a client waits for what it still asks.
    process.destroyForcibly();
    client.close();
    http.shutdownNow();
  }
}
