package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The command line as a process, on a garden of its own. */
class CommandLineTest {
  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 300);
    service = RunningService.start(folder);
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  /** What a command printed and how it ended. */
  record Outcome(int exitCode, String out, String err) {}

  /** Runs a command against the service, or against another address. */
  static Outcome run(String url, Path folder, List<String> arguments)
      throws IOException, InterruptedException {
    List<String> command = new ArrayList<>(Packaged.commandLine());
    command.addAll(arguments);
    Path out = Files.createTempFile("mnemex-cli", ".out");
    Path err = Files.createTempFile("mnemex-cli", ".err");
    try {
      ProcessBuilder builder = new ProcessBuilder(command).directory(folder.toFile());
      builder.environment().put("MNEMEX_URL", url);
      int exitCode =
          Packaged.end(builder.redirectOutput(out.toFile()).redirectError(err.toFile()).start());
      return new Outcome(
          exitCode,
          Files.readString(out, StandardCharsets.UTF_8),
          Files.readString(err, StandardCharsets.UTF_8));
    } finally {
      Files.delete(out);
      Files.delete(err);
    }
  }

  /** What a command that succeeds prints. */
  static String done(String url, Path folder, String... arguments)
      throws IOException, InterruptedException {
    Outcome outcome = run(url, folder, List.of(arguments));
    assertThat(outcome.exitCode()).as(outcome.err()).isZero();
    return outcome.out();
  }

  private static Outcome mnemex(String... arguments) throws Exception {
    return run(service.url.toString(), folder, List.of(arguments));
  }

  @Test
  void fromDefinitionsToResults() throws Exception {
    String definitions = RunningService.root().resolve("examples/garden").toString();
    Outcome applied = mnemex("apply", definitions);
    assertThat(applied.exitCode()).as(applied.err()).isZero();
    assertThat(applied.out())
        .containsPattern("index +plants +new +1 +from database +filling edition 1");
    service.awaitLive("plants");

    assertThat(mnemex("status").out()).containsPattern("plants +1 +(fresh|behind) +\\d+");
    assertThat(mnemex("status", "--json").out()).contains("\"lagMedianMillis\"");

    Outcome found = mnemex("search", "plant-search", "fern", "--size", "2", "--sort", "tallest");
    assertThat(found.out()).containsPattern("\\d+ results in .* page 1 of \\d+").contains("family");
    assertThat(
            mnemex("search", "plant-search", "fern", "--facet", "evergreen=true", "--json").out())
        .contains("\"asOf\"");

    Outcome traced = mnemex("trace", "QB-00017");
    assertThat(traced.out())
        .contains("database and index agree")
        .contains("Tokens")
        .doesNotContain("quillmere.example");
  }

  @Test
  void analyseShowsStepsSideBySide() throws Exception {
    Outcome shown = mnemex("analyse", "Ferns of shade", "-a", "words", "-a", "english");
    assertThat(shown.out())
        .containsPattern("fold +ferns {2}of {2}shade")
        .containsPattern("stem: english +fern {2}· {2}shade");
    assertThat(mnemex("analyse", "x", "-a", "englsh").err())
        .contains("there is no analyser 'englsh'; did you mean 'english'?");
  }

  @Test
  void anAuditAndTheStateOfASourceAreSaidInWords() throws Exception {
    service.applyGarden();
    Outcome audit = mnemex("audit");
    assertThat(audit.out())
        .containsPattern(
            "at position \\S+, (\\d+) of \\1 records agree; 0 missing, 0 stale, 0 extra")
        .contains("records compared in");
    assertThat(audit.exitCode()).isZero();
    assertThat(mnemex("audit", "--history").out()).contains("done").contains("records agree");
    assertThat(mnemex("quarantine", "--retry").out()).contains("No record is in quarantine.");
    Outcome check = mnemex("source", "check", "garden");
    assertThat(check.out())
        .contains("met     source 'garden' answers")
        .containsPattern("met     journal and triggers for the tables accession, .*taxon");
    assertThat(check.exitCode()).isZero();
    assertThat(mnemex("source", "tables", "garden").out())
        .containsPattern("accession_person +accession_no, person_id, role +accession_no text,");
    Outcome unknown = mnemex("source", "check", "gardn");
    assertThat(unknown.exitCode()).isEqualTo(1);
    assertThat(unknown.err()).contains("there is no source 'gardn'; did you mean 'garden'?");
  }

  @Test
  void exitCodesTellScriptsWhatHappened() throws Exception {
    Path bad = Files.writeString(folder.resolve("bad.yaml"), "indx: plants\n");
    Outcome refused = mnemex("apply", bad.toString());
    assertThat(refused.exitCode()).isEqualTo(1);
    assertThat(refused.err())
        .contains("bad.yaml:1:1: indx: the first key of a definition says what it defines")
        .contains("did you mean 'index'?")
        .contains("No definition was changed.");
    assertThat(mnemex("apply", "not-there.yaml").err()).contains("not-there.yaml does not exist");
    assertThat(mnemex("serch").exitCode()).isEqualTo(2);
    assertThat(mnemex("search", "plant-search", "--facet", "oops").exitCode()).isEqualTo(2);
    Outcome away = run("http://127.0.0.1:9", folder, List.of("status"));
    assertThat(away.exitCode()).isEqualTo(4);
    assertThat(away.err()).contains("no service answers at http://127.0.0.1:9");
    for (String command :
        List.of("demo", "serve", "apply", "status", "search", "analyse", "trace", "audit")) {
      Outcome help = mnemex(command, "--help");
      assertThat(help.exitCode()).isZero();
      assertThat(help.out()).containsPattern("Example|Settings");
    }
  }
}
