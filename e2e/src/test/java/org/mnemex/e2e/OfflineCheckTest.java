package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.Problem;
import org.mnemex.client.ProblemException;

/** {@code mnemex check} needs no service, and says what a service would say. */
class OfflineCheckTest {
  private static final Pattern KEY = Pattern.compile("(?<=[\\n {,])([a-z_]{3,})(?=: )");

  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 50);
    service = RunningService.start(folder);
    service.applyGarden();
  }

  @AfterAll
  static void stop() throws Exception {
    service.close();
  }

  private static CommandLineTest.Outcome check(Path files) throws Exception {
    return CommandLineTest.run("http://127.0.0.1:1", folder, List.of("check", files.toString()));
  }

  @Test
  void whatIsInTheExamplesIsWellFormed() throws Exception {
    Path all = RunningService.root().resolve("examples");
    try (Stream<Path> files = Files.find(all, 3, (file, of) -> file.toString().endsWith(".yaml"))) {
      for (Path examples :
          files
              .filter(file -> !file.toString().contains("node_modules"))
              .map(Path::getParent)
              .distinct()
              .toList()) {
        CommandLineTest.Outcome outcome = check(examples);
        assertThat(outcome.exitCode()).as("%s: %s", examples, outcome.out()).isZero();
        assertThat(outcome.out()).contains("well formed");
      }
    }
  }

  /** Every key of the example, misspelt, is found in the same place by both. */
  @Test
  void aMisspeltKeyIsFoundWhereTheServiceFindsIt(@TempDir Path files) throws Exception {
    List<String> expected = new ArrayList<>();
    for (Map.Entry<String, String> file : GardenFiles.definitions().entrySet()) {
      Matcher key = KEY.matcher(file.getValue());
      while (key.find()) {
        String wrong =
            file.getValue().substring(0, key.end()) + "x" + file.getValue().substring(key.end());
        Problem.Place said = refusal(file.getKey(), wrong);
        if (said == null || !said.detail().startsWith("unknown key")) {
          // A name of the user's own, which may be any word; or a key that must be there.
          continue;
        }
        Path bad = files.resolve("%d-%s".formatted(expected.size(), file.getKey()));
        Files.writeString(bad, wrong);
        expected.add(
            "%s:%d:%d: %s: unknown key '%sx'; did you mean '%s'?"
                .formatted(bad, said.line(), said.column(), said.key(), key.group(), key.group()));
      }
    }
    assertThat(expected).hasSizeGreaterThan(60);
    CommandLineTest.Outcome outcome = check(files);
    assertThat(outcome.exitCode()).isEqualTo(3);
    assertThat(outcome.out().lines()).containsAll(expected);
  }

  private static Problem.Place refusal(String name, String text) {
    Map<String, String> files = new LinkedHashMap<>(GardenFiles.definitions());
    files.put(name, text);
    try {
      service.client.plan(files);
      return null;
    } catch (ProblemException e) {
      List<Problem.Place> places = e.problem().problems();
      return places == null || places.isEmpty() ? null : places.getFirst();
    }
  }

  @Test
  void aFileBringsOthersWithIt(@TempDir Path files) throws Exception {
    Path common = Files.createDirectory(files.resolve("common"));
    Files.writeString(common.resolve("a.yaml"), "analyser: a\ntokeniser: words\n");
    Files.writeString(
        common.resolve("b.yaml"), "include: a.yaml\n---\nanalyser: b\ntokeniser: words\n");
    Path own = Files.createDirectory(files.resolve("own")).resolve("all.yaml");
    Files.writeString(
        own, "include: [../common, ../common/a.yaml]\n---\nanalyser: c\ntokeniser: words\n");
    assertThat(check(own).out()).contains("3 definitions are well formed");
    Files.writeString(own, "include:\n  - ../common\n---\nanalyser: c\ntokenizer: words\n");
    CommandLineTest.Outcome wrong = check(own);
    assertThat(wrong.exitCode()).isEqualTo(3);
    assertThat(wrong.out()).contains(own + ":5:");
    Files.writeString(own, "include: nowhere.yaml\n");
    assertThat(check(own).err())
        .contains("includes")
        .contains("nowhere.yaml, which does not exist");
    Files.writeString(own, "include: ../common\nanalyser: c\n");
    assertThat(check(own).err()).contains("'include' is a document of its own");
  }

  @Test
  void schemasAreServed() throws Exception {
    for (String kind : List.of("source", "analyser", "index", "endpoint", "scorecard")) {
      var schema = service.get("/api/schemas/" + kind);
      assertThat(schema.statusCode()).isEqualTo(200);
      assertThat(schema.headers().firstValue("Content-Type").orElse(""))
          .startsWith("application/schema+json");
      assertThat(schema.body()).contains("\"urn:mnemex:" + kind + "\"");
    }
  }
}
