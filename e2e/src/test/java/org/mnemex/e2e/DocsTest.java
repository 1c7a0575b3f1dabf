package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.garden.server.PostgresServer;

/** Every command and every definition in README, guide and reference, run as it stands there. */
class DocsTest {
  private static final Pattern BLOCK = Pattern.compile("```(\\w+)\\n(.*?)```", Pattern.DOTALL);
  private static final Pattern LINK = Pattern.compile("]\\(([^)#]+)(?:#[^)]*)?\\)");

  /** They start what this test stands for itself. */
  private static final List<String> NOT_RUN = List.of("./mnemex demo", "./verify");

  private static List<Path> pages() throws IOException {
    Path root = RunningService.root();
    List<Path> pages =
        new ArrayList<>(
            List.of(
                root.resolve("README.md"),
                root.resolve("CONTRIBUTING.md"),
                root.resolve("CHANGELOG.md")));
    try (Stream<Path> docs = Files.walk(root.resolve("docs"))) {
      docs.filter(file -> file.toString().endsWith(".md")).sorted().forEach(pages::add);
    }
    return pages;
  }

  private static List<String> blocks(Path page, String language) throws IOException {
    List<String> blocks = new ArrayList<>();
    Matcher matcher = BLOCK.matcher(Files.readString(page));
    while (matcher.find()) {
      if (matcher.group(1).equals(language)) {
        blocks.add(matcher.group(2));
      }
    }
    return blocks;
  }

  @Test
  void commandsAndDefinitionsWork(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 400);
    copyExamples(folder);
    try (PostgresServer server = PostgresServer.start(Files.createTempDirectory("mnemex-pg"));
        RunningService service = RunningService.start(folder, server.environment())) {
      server.createGarden("garden", 400, 7);
      service.applyGarden();
      writeLauncher(folder);
      int commands = 0;
      int definitions = 0;
      int examples = 0;
      for (Path page : pages()) {
        for (String block : blocks(page, "yaml")) {
          Map<String, String> files = new LinkedHashMap<>(Map.of(page.toString(), block));
          assertThat(service.client.apply(files)).as("%s: %s", page, block).isNotEmpty();
          definitions++;
        }
        service.awaitLive("plants");
        for (String block : blocks(page, "sh")) {
          for (String line : block.lines().filter(l -> !l.isBlank()).toList()) {
            if (!NOT_RUN.contains(line)) {
              runLine(service, folder, page, line);
              commands++;
            }
          }
        }
        for (String block : blocks(page, "java")) {
          JavaExample.run(block, service.url, folder);
          examples++;
        }
      }
      assertThat(commands).isGreaterThan(20);
      assertThat(definitions).isGreaterThan(3);
      assertThat(examples).isPositive();
    }
  }

  private static void runLine(RunningService service, Path folder, Path page, String line)
      throws Exception {
    // An answer that is an error must fail the test, too.
    String command =
        line.replace("http://127.0.0.1:7077", service.url.toString())
            .replace("curl -s", "curl -sS --fail-with-body");
    Path output = folder.resolve("output.txt");
    ProcessBuilder builder =
        new ProcessBuilder("bash", "-c", command)
            .directory(folder.toFile())
            .redirectErrorStream(true)
            .redirectOutput(output.toFile());
    builder.environment().put("MNEMEX_URL", service.url.toString());
    int exitCode = Packaged.end(builder.start());
    assertThat(exitCode).as("%s: %s%n%s", page, line, Files.readString(output)).isZero();
    if (line.startsWith("./mnemex") || line.startsWith("curl")) {
      assertThat(output).as("%s: %s", page, line).isNotEmptyFile();
    }
  }

  private static void copyExamples(Path folder) throws IOException {
    Path examples = Files.createDirectories(folder.resolve("examples/garden"));
    for (Map.Entry<String, String> file : GardenFiles.definitions().entrySet()) {
      Files.writeString(examples.resolve(file.getKey()), file.getValue());
    }
  }

  /** What the script {@code mnemex} does for commands, on the classes of this build. */
  private static void writeLauncher(Path folder) throws IOException {
    Path launcher = folder.resolve("mnemex");
    Files.writeString(
        launcher,
        "#!/bin/sh\nexec '%s' \"$@\"\n".formatted(String.join("' '", Packaged.commandLine())));
    assertThat(launcher.toFile().setExecutable(true)).isTrue();
  }

  @Test
  void linksLeadSomewhere() throws IOException {
    for (Path page : pages()) {
      Matcher link = LINK.matcher(Files.readString(page));
      while (link.find()) {
        String target = link.group(1);
        if (!target.contains("://")) {
          assertThat(page.resolveSibling(target)).as("%s -> %s", page, target).exists();
        }
      }
    }
  }
}
