package org.mnemex.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.anyBoolean;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.mockConstruction;
import static org.mockito.Mockito.when;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.AuditReport;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.JobClient;
import org.mnemex.client.JobEntry;
import org.mnemex.client.MnemexClient;
import org.mockito.MockedConstruction;
import picocli.CommandLine;
import picocli.CommandLine.Model.OptionSpec;

/** What commands print and how they end, whatever the service answers. */
class CommandsTest {
  /** What a command printed, and its exit code. */
  private record Outcome(int code, String out, String err) {}

  private static Outcome run(Consumer<MnemexClient> service, String... arguments) {
    StringWriter out = new StringWriter();
    StringWriter err = new StringWriter();
    try (MockedConstruction<MnemexClient> clients =
        mockConstruction(MnemexClient.class, (client, context) -> service.accept(client))) {
      int code =
          Mnemex.commandLine()
              .setColorScheme(CommandLine.Help.defaultColorScheme(CommandLine.Help.Ansi.OFF))
              .setOut(new PrintWriter(out))
              .setErr(new PrintWriter(err))
              .execute(arguments);
      assertThat(clients.constructed()).hasSizeLessThan(2);
      return new Outcome(code, out.toString(), err.toString());
    }
  }

  private static IndexStatus.Edition edition(String state, @Nullable String damage) {
    return new IndexStatus.Edition(
        2,
        3,
        state,
        false,
        null,
        1_234_567,
        7_040_000,
        5,
        2,
        "LIVE",
        null,
        damage,
        null,
        "p:1",
        "2026-05-04T10:00:00Z",
        50,
        200,
        0,
        12,
        11,
        57);
  }

  private static IndexStatus index(IndexStatus.@Nullable Edition live, @Nullable String held) {
    return new IndexStatus(
        "plants", "garden", 3, true, false, held, null, live, edition("filling", null), null);
  }

  @Test
  void statusShowsEveryEditionAndWhatWaits() {
    Outcome outcome =
        run(
            client ->
                when(client.indexes())
                    .thenReturn(List.of(index(edition("live", null), "it is smaller"))),
            "status");
    assertThat(outcome.code).isEqualTo(ExitCode.DONE);
    assertThat(outcome.out.lines().toList())
        .satisfiesExactly(
            header -> assertThat(header).startsWith("index   edition  state        documents"),
            live -> assertThat(live).contains("plants        2  fresh        1,234,567", "7.0 MB"),
            next -> assertThat(next).contains("filling 25%"),
            held ->
                assertThat(held)
                    .isEqualTo("! plants: it is smaller: mnemex compare, then mnemex promote"));
  }

  @Test
  void aDamagedEditionIsAFailure() {
    Outcome outcome =
        run(
            client ->
                when(client.indexes())
                    .thenReturn(List.of(index(edition("live", "a checksum differs"), null))),
            "status");
    assertThat(outcome.code).isEqualTo(ExitCode.FAILED);
    assertThat(outcome.out).contains("damaged");
    assertThat(run(client -> when(client.indexes()).thenReturn(List.of()), "status").out)
        .isEqualTo(
            "There is no index yet. Define one: mnemex apply FILES" + System.lineSeparator());
  }

  @Test
  void anAuditIsAwaitedAndItsDifferencesNamed() {
    AuditReport running =
        new AuditReport(7, null, "2026-05-04T10:00:00Z", "running", null, null, null);
    List<String> missing = List.of("a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k");
    AuditReport done =
        new AuditReport(
            7,
            null,
            running.started(),
            "done",
            "11 missing",
            false,
            new AuditReport.Result(
                1, "p:1", 500, 489, 0, missing, List.of(), List.of(), List.of(), true, 1_500));
    Outcome outcome =
        run(
            client -> {
              when(client.indexes()).thenReturn(List.of(index(edition("live", null), null)));
              when(client.audit(anyString(), anyBoolean())).thenReturn(running);
              when(client.audits("plants")).thenReturn(List.of(running), List.of(done));
            },
            "audit",
            "--repair");
    assertThat(outcome.code).isEqualTo(ExitCode.FAILED);
    assertThat(outcome.out)
        .contains("11 missing")
        .contains("missing  in the database, not in the index: a, b, c, d, e, f, g, h, i, j, …")
        .contains("500 records compared in 1.5 s; the feed reads the differences again")
        .doesNotContain("stale");
  }

  @Test
  void wrongUseSaysWhatIsWrongAndCallsNobody() {
    Outcome outcome = run(client -> {}, "audit", "--reapir");
    assertThat(outcome.code).isEqualTo(ExitCode.USAGE);
    assertThat(outcome.err).contains("--reapir");
  }

  @Test
  void theVersionIsThePackagesOrTheBuilds() {
    assertThat(Version.of("0.2.1", "0.2.0-SNAPSHOT")).isEqualTo("0.2.1");
    assertThat(Version.of(null, "0.2.0-SNAPSHOT")).isEqualTo("0.2.0 (built from source)");
    assertThat(run(client -> {}, "--version").out).startsWith("mnemex ");
  }

  @Test
  void aShellCompletesCommandsAndOptions(@TempDir Path folder) throws Exception {
    for (String shell : List.of("bash", "zsh")) {
      Path script = folder.resolve(shell);
      Files.writeString(script, run(client -> {}, "completion", shell).out);
      assertThat(completed(script, "mnemex", "insi")).containsExactly("insights");
      assertThat(completed(script, "mnemex", "insights", "--ov")).containsExactly("--over-time");
      assertThat(completed(script, "mnemex", "source", "dr")).containsExactly("drop-reader");
    }
    assertThat(run(client -> {}, "completion", "fish").code).isEqualTo(2);
  }

  @Test
  void everyCommandHasAManualPageWithItsOptions(@TempDir Path folder) throws Exception {
    Outcome outcome = run(client -> {}, "man-pages", folder.toString());
    assertThat(outcome.err).isEmpty();
    assertThat(outcome.code).isEqualTo(ExitCode.DONE);
    String top = Files.readString(folder.resolve("mnemex.1"));
    for (var command : Mnemex.commandLine().getSubcommands().entrySet()) {
      String name = "mnemex-" + command.getKey();
      assertThat(top).contains("\\fB" + name.replace("-", "\\-") + "\\fR(1)");
      List<String> page = Files.readAllLines(folder.resolve(name + ".1"));
      for (OptionSpec option : command.getValue().getCommandSpec().options()) {
        if (!option.hidden()) {
          assertThat(String.join("\n", page)).contains(option.longestName().replace("-", "\\-"));
        }
      }
      // Anything else that begins with a dot would be taken for a macro and left out.
      assertThat(page)
          .filteredOn(line -> line.startsWith("."))
          .allMatch(line -> line.matches("\\.(TH|SH|PP|TP|nf|fi|ad|nh|hy)( .*)?"));
    }
  }

  /** What bash completes the last of these words to. */
  private static List<String> completed(Path script, String... words) throws Exception {
    String typed = String.join(" ", words);
    Process bash =
        new ProcessBuilder(
                "bash",
                "-c",
                "source '%s'; COMP_WORDS=(%s); COMP_CWORD=%d; COMP_LINE='%s'; COMP_POINT=%d;"
                        .formatted(script, typed, words.length - 1, typed, typed.length())
                    + " _complete_mnemex; printf '%s\\n' \"${COMPREPLY[@]}\"")
            // It complains that no key was pressed.
            .redirectError(ProcessBuilder.Redirect.DISCARD)
            .start();
    return bash.inputReader().lines().filter(line -> !line.isBlank()).toList();
  }

  @Test
  void aJobIsWatchedToItsEnd() {
    JobClient jobs = mock(JobClient.class);
    JobEntry running = job("running", 250, null);
    when(jobs.one(3)).thenReturn(running, running, job("failed", 300, "the source is away"));
    Outcome outcome = run(client -> when(client.jobs()).thenReturn(jobs), "jobs", "3", "--watch");
    assertThat(outcome.out)
        .containsOnlyOnce("running: 250 of 1,000 (25%), 50 a second, 15 s left")
        .contains("audit of plants, edition 1", "the source is away");
    assertThat(outcome.code).isEqualTo(ExitCode.FAILED);
  }

  private static JobEntry job(String state, long done, @Nullable String message) {
    return new JobEntry(
        3,
        "audit",
        "plants",
        "edition 1",
        state,
        "2026-05-04T10:00:00Z",
        message == null ? null : "2026-05-04T10:00:09Z",
        done,
        1000L,
        message == null ? 50.0 : null,
        message == null ? 15L : null,
        message,
        null,
        List.of());
  }
}
