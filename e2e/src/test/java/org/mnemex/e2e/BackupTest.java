package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Random;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.cli.backup.BackupFolder;
import org.mnemex.cli.backup.BackupReader;
import org.mnemex.client.JobEntry;
import org.mnemex.client.SearchQuery;
import org.mnemex.garden.Gardener;

/**
 * Backups while everything changes, and what is restored from them. The property {@code
 * mnemex.backups} says how many are made under load and restored.
 */
class BackupTest {
  private static final int BACKUPS = Integer.getInteger("mnemex.backups", 3);
  private static final int KILLS = Integer.getInteger("mnemex.backup.kills", 4);
  private static final int ACCESSIONS = 500;

  private static final String SHED =
      """
      source: shed
      kind: push
      ---
      index: tools
      source: shed
      record: {key: [id]}
      fields: {name: {from: name, type: text, uses: [show]}}
      ---
      endpoint: tool-search
      index: tools
      show: [name]
      page: {size: 1, most: 1}
      """;

  @TempDir private static Path folder;
  private static RunningService service;
  private static Path garden;

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, ACCESSIONS);
    service = RunningService.start(folder);
    // So much is changed that removals would be held back.
    service.client.apply(
        GardenFiles.edited("plants.yaml", text -> text + "\nmost_removed: 100%\n"));
    service.client.apply(Map.of("shed.yaml", SHED));
    service.awaitLive("plants");
    service.awaitLive("tools");
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static CommandLineTest.Outcome mnemex(String... arguments) throws Exception {
    return CommandLineTest.run(service.url.toString(), folder, List.of(arguments));
  }

  private static String done(String... arguments) throws Exception {
    return CommandLineTest.done(service.url.toString(), folder, arguments);
  }

  /** Changes the garden's database and pushes tools, one after the other, until it is closed. */
  private static final class Load implements AutoCloseable {
    private final AtomicBoolean isOver = new AtomicBoolean();
    private final AtomicInteger pushed = new AtomicInteger();
    private final List<Throwable> failures = new ArrayList<>();
    private final List<Thread> threads;

    Load() {
      threads = List.of(thread(this::change), thread(this::push));
    }

    /** Work that may fail. */
    private interface Work {
      void run() throws Exception;
    }

    private Thread thread(Work work) {
      return Thread.ofPlatform()
          .start(
              () -> {
                try {
                  work.run();
                } catch (Exception e) {
                  failures.add(e);
                }
              });
    }

    private void change() throws Exception {
      try (Gardener gardener = new Gardener(garden, 5, Clock.systemUTC())) {
        while (!isOver.get()) {
          gardener.change();
          TimeUnit.MILLISECONDS.sleep(5);
        }
      }
    }

    private void push() throws Exception {
      while (!isOver.get()) {
        int number = pushed.get() + 1;
        int status =
            service
                .send("PUT", "/api/indexes/tools/records/t" + number, "{\"name\": \"Rake\"}")
                .statusCode();
        assertThat(status).isEqualTo(200);
        pushed.set(number);
      }
    }

    @Override
    public void close() throws InterruptedException {
      isOver.set(true);
      for (Thread thread : threads) {
        thread.join();
      }
      assertThat(failures).isEmpty();
    }
  }

  /** How many tools were pushed before a backup began, and when it had ended. */
  private record Made(Path backup, int before, int after) {}

  @Test
  @Timeout(value = 1, unit = TimeUnit.HOURS)
  void whatIsRestoredIsTrue() throws Exception {
    Path backups = folder.resolve("backups");
    List<Made> made = new ArrayList<>();
    try (Load load = new Load()) {
      RunningService.await(() -> load.pushed.get() > 20);
      for (int i = 0; i < BACKUPS; i++) {
        int before = load.pushed.get();
        done("backup", backups.toString());
        made.add(
            new Made(new BackupFolder(backups).backups().getLast(), before, load.pushed.get() + 1));
      }
    }
    assertThat(made).hasSize(BACKUPS).doesNotHaveDuplicates();
    for (Made one : made) {
      Path data = folder.resolve("restored-" + one.backup.getFileName());
      String said = done("restore", one.backup.toString(), "--data", data.toString(), "--copy");
      assertThat(said).contains("mnemex serve --mnemex.data=" + data);
      try (RunningService restored = RunningService.startOn(folder, data)) {
        JobEntry job = restore(restored);
        assertThat(job.state()).isEqualTo("done");
        // The first service went on, and so did the journal: it rarely has what came after.
        restored.awaitTrue("plants");
        int edition = Objects.requireNonNull(restored.client.index("plants").live()).number();
        assertThat(job.message())
            .contains(
                edition == 1
                    ? "2 of 2 indexes went on from there, 0 were filled again"
                    : "1 of 2 indexes went on from there, 1 were filled again");
        assertThat(Objects.requireNonNull(job.log()))
            .extracting(JobEntry.Line::text)
            .contains("index 'tools' goes on from its position in the backup")
            .anyMatch(
                line ->
                    edition == 1
                        ? line.equals("index 'plants' goes on from its position in the backup")
                        : line.startsWith("index 'plants' is filled again: "));
        int tools = tools(restored);
        assertThat(tools).isBetween(one.before, one.after);
        // Pushed one after the other: without a gap.
        assertThat(restored.get("/api/indexes/tools/records/t" + tools).statusCode())
            .isEqualTo(200);
        assertThat(audit(restored, "plants")).isTrue();
        assertThat(audit(restored, "tools")).isTrue();
        assertThat(Files.exists(data.resolve("restored.json"))).isFalse();
      }
    }
    // The one that goes on elsewhere was not disturbed.
    service.awaitTrue("plants");
    assertThat(audit(service, "plants")).isTrue();
  }

  private static JobEntry restore(RunningService restored) {
    RunningService.await(
        () ->
            restored.client.jobs().list(50).stream()
                .anyMatch(job -> job.kind().equals("restore") && job.isOver()));
    long id =
        restored.client.jobs().list(50).stream()
            .filter(job -> job.kind().equals("restore"))
            .findFirst()
            .orElseThrow()
            .id();
    return restored.client.jobs().one(id);
  }

  private static int tools(RunningService of) {
    return (int) of.client.search("tool-search", SearchQuery.words("")).total().count();
  }

  private static @Nullable Boolean audit(RunningService of, String index) {
    long id = of.client.audit(index, false).id();
    RunningService.await(
        () ->
            of.client.audits(index).stream()
                .anyMatch(audit -> audit.id() == id && !audit.state().equals("running")));
    return of.client.audits(index).stream()
        .filter(audit -> audit.id() == id)
        .findFirst()
        .orElseThrow()
        .clean();
  }

  @Test
  void whatMovesGoesOn() throws Exception {
    Path moving = Files.createDirectory(folder.resolve("moving"));
    Path database = GardenFiles.create(moving, ACCESSIONS);
    Path archive = folder.resolve("garden.tar.zst");
    try (RunningService before = RunningService.start(moving)) {
      before.applyGarden();
      before.awaitTrue("plants");
      CommandLineTest.Outcome made =
          CommandLineTest.run(before.url.toString(), folder, List.of("backup", archive.toString()));
      assertThat(made.err()).isEmpty();
      assertThat(made.out()).contains("read again and compared");
      before.kill();
    }
    GardenFiles.run(database, "UPDATE accession SET visitor_interest = visitor_interest + 1");
    Path data = folder.resolve("moved");
    done("restore", archive.toString(), "--data", data.toString());
    try (RunningService after = RunningService.startOn(moving, data)) {
      assertThat(restore(after).message())
          .contains("1 of 1 indexes went on from there, 0 were filled again");
      assertThat(Objects.requireNonNull(after.client.index("plants").live()).number()).isOne();
      assertThat(audit(after, "plants")).isTrue();
    }
    // Whatever is there already stays.
    assertThat(mnemex("restore", archive.toString(), "--data", data.toString()).err())
        .contains("is not empty");
    byte[] cut = Files.readAllBytes(archive);
    Path half = folder.resolve("half.tar.zst");
    Files.write(half, Arrays.copyOf(cut, cut.length / 2));
    Path none = folder.resolve("none");
    assertThat(mnemex("restore", half.toString(), "--data", none.toString()).err())
        .contains("half.tar.zst cannot be read as an archive");
    try (Stream<Path> left = Files.list(none)) {
      assertThat(left).isEmpty();
    }
  }

  /** On a machine where a variable is not set that a source names. */
  @Test
  void aRestoreSaysWhatIsMissing() throws Exception {
    Path there = Files.createDirectory(folder.resolve("there"));
    Path database = GardenFiles.create(there, 50);
    Path archive = folder.resolve("there.tar.zst");
    try (RunningService before =
        RunningService.start(there, Map.of("MNEMEX_GARDEN_FILE", database.toString()))) {
      before.client.apply(
          Map.of(
              "families.yaml",
              """
              source: garden
              kind: sqlite
              file: ${MNEMEX_GARDEN_FILE}
              prepare: automatic
              ---
              index: families
              source: garden
              record: {root: family, key: [id]}
              fields: {name: {from: name, type: text, uses: [search]}}
              """));
      before.awaitLive("families");
      assertThat(
              CommandLineTest.run(
                      before.url.toString(), folder, List.of("backup", archive.toString()))
                  .exitCode())
          .isZero();
    }
    Path data = folder.resolve("here");
    done("restore", archive.toString(), "--data", data.toString());
    try (RunningService after = RunningService.startOn(there, data)) {
      String why = "variable MNEMEX_GARDEN_FILE is not set where the service runs";
      assertThat(after.client.index("families").problem())
          .startsWith("not running: its source 'garden' is not running: ")
          .endsWith(why);
      RunningService.await(
          () ->
              after.client.jobs().list(50).stream()
                  .filter(job -> job.kind().equals("restore"))
                  .map(job -> after.client.jobs().one(job.id()))
                  .flatMap(job -> Objects.requireNonNull(job.log()).stream())
                  .anyMatch(
                      line ->
                          line.text().startsWith("index 'families' waits: not running: ")
                              && line.text().endsWith(why)));
    }
  }

  @Test
  void aKilledBackupIsNone() throws Exception {
    Path backups = folder.resolve("killed");
    Random random = new Random(11);
    for (int i = 0; i < KILLS; i++) {
      List<String> command = new ArrayList<>(Packaged.commandLine());
      command.addAll(List.of("backup", backups.toString(), "--url", service.url.toString()));
      Process process =
          new ProcessBuilder(command)
              .redirectErrorStream(true)
              .redirectOutput(ProcessBuilder.Redirect.DISCARD)
              .start();
      process.waitFor(random.nextInt(1500), TimeUnit.MILLISECONDS);
      process.destroyForcibly().waitFor();
      discardAll();
      for (Path backup : new BackupFolder(backups).backups()) {
        BackupReader.of(backup).check();
      }
    }
    done("backup", backups.toString());
    assertThat(done("backup", backups.toString(), "--keep", "1")).contains("Removed");
    try (Stream<Path> left = Files.list(backups)) {
      assertThat(left.filter(path -> !path.endsWith(".lock"))).hasSize(1);
    }
    assertThat(service.get("/api/backups").body()).isEqualTo("[]");
  }

  private static void discardAll() throws Exception {
    RunningService.await(
        () ->
            service.client.jobs().list(20).stream()
                .filter(job -> job.kind().equals("backup"))
                .allMatch(JobEntry::isOver));
    Matcher ids =
        Pattern.compile("\"id\":\"([^\"]+)\"").matcher(service.get("/api/backups").body());
    while (ids.find()) {
      service.client.backups().discard(ids.group(1));
    }
  }

  @Test
  void damageIsFoundAndMended() throws Exception {
    Path backups = folder.resolve("damaged");
    done("backup", backups.toString());
    Path first = new BackupFolder(backups).backups().getFirst();
    Path segment;
    try (Stream<Path> files = Files.walk(first.resolve("indexes/plants"))) {
      segment = files.filter(file -> file.toString().endsWith(".mnx")).findFirst().orElseThrow();
    }
    // Not what the service has: the copy is a file of its own.
    byte[] content = Files.readAllBytes(segment);
    content[content.length / 2] ^= 1;
    Files.write(segment, content, StandardOpenOption.TRUNCATE_EXISTING);
    assertThatThrownBy(() -> BackupReader.of(first).check())
        .isInstanceOf(IOException.class)
        .hasMessageContaining(segment.getFileName() + " has changed");
    assertThat(mnemex("restore", first.toString(), "--check").exitCode()).isOne();
    assertThat(done("backup", backups.toString()))
        .contains("had changed in the backup before; it was fetched again");
    assertThat(done("restore", backups.toString(), "--check")).contains("is whole");
    assertThat(audit(service, "plants")).isTrue();
  }
}
