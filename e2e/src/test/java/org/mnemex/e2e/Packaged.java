package org.mnemex.e2e;

import java.io.File;
import java.io.IOException;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.SearchQuery;

/**
 * The packaged programs, as tests start them. They are started very often, so what each needs at
 * its start is made ready once (JEP 514); without that everything works as well, only more slowly.
 */
final class Packaged {
  private static final long PATIENCE_SECONDS = 400;
  private static final int TRAINING = 300;
  private static final Path JAVA = Path.of(System.getProperty("java.home"), "bin", "java");
  private static final Path FOLDER = RunningService.root().resolve("e2e/target/packaged");
  private static final Path SERVICE_CACHE = FOLDER.resolve("service.aot");
  private static final Path READERS_CACHE = FOLDER.resolve("readers.aot");
  private static final Path CLI_CACHE = FOLDER.resolve("cli.aot");

  /** A start is most of what a process does here: little is compiled, and quickly. */
  private static final List<String> FOR_A_SHORT_TIME =
      List.of(
          "-XX:TieredStopAtLevel=1",
          "-XX:Tier3InvocationThreshold=1000",
          "-XX:Tier3MinInvocationThreshold=500",
          "-XX:Tier3CompileThreshold=5000",
          "-XX:+UseSerialGC");

  /** Where digits are others: what depends on the language of a machine shows. */
  private static final String OTHER_LANGUAGE = "-Duser.language=ar";

  private static final String OTHER_COUNTRY = "-Duser.country=EG";
  private static @Nullable Path jar;

  private Packaged() {}

  /** The command that starts the service; its options follow. */
  static List<String> service() throws IOException {
    return service(prepared());
  }

  /** The command line; its arguments follow. */
  static List<String> commandLine() throws IOException {
    prepared();
    return commandLine(cache(CLI_CACHE));
  }

  private static List<String> service(Path jar) {
    List<String> command = new ArrayList<>(List.of(JAVA.toString()));
    command.addAll(cache(SERVICE_CACHE));
    command.addAll(FOR_A_SHORT_TIME);
    command.addAll(
        List.of(
            "-XX:+ExitOnOutOfMemoryError",
            OTHER_LANGUAGE,
            OTHER_COUNTRY,
            "-Dmnemex.readers.cache=" + READERS_CACHE,
            "--enable-native-access=ALL-UNNAMED",
            "-jar",
            jar.toString()));
    return command;
  }

  private static List<String> commandLine(List<String> options) {
    List<String> command = new ArrayList<>(List.of(JAVA.toString()));
    command.addAll(options);
    // What is packed only: folders of classes cannot be made ready.
    String packed =
        Stream.of(System.getProperty("java.class.path").split(File.pathSeparator))
            .filter(part -> part.endsWith(".jar"))
            .collect(Collectors.joining(File.pathSeparator));
    command.addAll(FOR_A_SHORT_TIME);
    command.addAll(
        List.of(
            OTHER_LANGUAGE,
            OTHER_COUNTRY,
            "--enable-native-access=ALL-UNNAMED",
            "-cp",
            packed.contains("mnemex-cli") ? packed : System.getProperty("java.class.path"),
            "org.mnemex.cli.Mnemex"));
    return command;
  }

  private static List<String> cache(Path file) {
    return Files.exists(file) ? List.of("-XX:AOTCache=" + file) : List.of();
  }

  /** Takes the service apart and makes its start and the command line's ready, once. */
  private static synchronized Path prepared() throws IOException {
    if (jar == null) {
      Path packaged;
      try (Stream<Path> jars = Files.list(RunningService.root().resolve("service/target"))) {
        packaged =
            jars.filter(file -> file.toString().endsWith("-app.jar")).findFirst().orElseThrow();
      }
      Files.createDirectories(FOLDER);
      Files.deleteIfExists(SERVICE_CACHE);
      Files.deleteIfExists(CLI_CACHE);
      Files.deleteIfExists(READERS_CACHE);
      List<String> extraction =
          List.of(
              JAVA.toString(),
              "-Djarmode=tools",
              "-jar",
              packaged.toString(),
              "extract",
              "--force",
              "--destination",
              FOLDER.toString());
      if (end(start(FOLDER, URI.create("http://127.0.0.1"), extraction)) != 0) {
        throw new IOException(packaged + " could not be taken apart");
      }
      Path extracted = FOLDER.resolve(packaged.getFileName());
      trainReaders(extracted);
      train(extracted);
      jar = extracted;
    }
    return jar;
  }

  /** Lets the service index and search a small garden, only to record what that needs. */
  private static void train(Path extracted) throws IOException {
    Path folder = Files.createTempDirectory(FOLDER, "training");
    try {
      GardenFiles.create(folder, TRAINING);
    } catch (SQLException e) {
      throw new IOException(e);
    }
    try (ServerSocket free = new ServerSocket(0)) {
      int port = free.getLocalPort();
      free.close();
      List<String> serving = new ArrayList<>(service(extracted));
      serving.add(1, "-XX:AOTCacheOutput=" + SERVICE_CACHE);
      serving.add("--server.port=" + port);
      URI url = URI.create("http://127.0.0.1:" + port);
      Process service = start(folder, url, serving);
      try (MnemexClient client = new MnemexClient(url)) {
        RunningService.await(() -> client.isUp() || !service.isAlive());
        client.apply(GardenFiles.definitions());
        RunningService.await(() -> client.indexes().getFirst().live() != null);
        client.search("plant-search", SearchQuery.words("fern"));
        client.audit("plants", false);
        RunningService.await(() -> client.jobs().list(1).getFirst().isOver());
      }
      List<String> asking =
          new ArrayList<>(commandLine(List.of("-XX:AOTCacheOutput=" + CLI_CACHE)));
      asking.add("status");
      end(start(folder, url, asking));
      service.destroy();
      end(service);
    }
  }

  /** The processes that read files, with the options that they are started with. */
  private static void trainReaders(Path extracted) throws IOException {
    List<String> command =
        List.of(
            JAVA.toString(),
            "-Xmx512m",
            "-XX:+UseSerialGC",
            "-XX:-UsePerfData",
            "-Djava.awt.headless=true",
            "-XX:AOTCacheOutput=" + READERS_CACHE,
            "-cp",
            extracted.toString(),
            "org.mnemex.sync.extract.ReaderTraining");
    end(start(FOLDER, URI.create("http://127.0.0.1"), command));
  }

  private static Process start(Path folder, URI url, List<String> command) throws IOException {
    ProcessBuilder builder =
        new ProcessBuilder(command)
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(folder.resolve("log").toFile());
    builder.environment().put("MNEMEX_URL", url.toString());
    return builder.start();
  }

  /** Waits for a process; its exit code. */
  static int end(Process process) throws IOException {
    try {
      if (process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS)) {
        return process.exitValue();
      }
    } catch (InterruptedException e) {
      process.destroyForcibly();
      throw new IOException(e);
    }
    process.destroyForcibly();
    throw new IOException("%s did not end within %d s".formatted(process.info(), PATIENCE_SECONDS));
  }
}
