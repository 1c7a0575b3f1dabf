package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.stream.Collectors;
import jdk.jfr.consumer.RecordedEvent;
import jdk.jfr.consumer.RecordedFrame;
import jdk.jfr.consumer.RecordingFile;
import org.mnemex.client.IndexStatus;
import org.mnemex.client.MnemexClient;

/**
 * Fills an index with three joins from the database, and again from stored records because an
 * analyser changed; of both the rate, and what the processors were busy with, by samples of the
 * service's stacks (JDK Flight Recorder).
 */
public final class RebuildBench {
  private static final String INDEX = "three-joins";
  private static final long PATIENCE_MINUTES = 60;
  private static final int TICKS_A_SECOND = 100;

  /** utime, stime, cutime and cstime, counted from the field behind the command. */
  private static final int FIRST_TIME = 11;

  private static final int TIMES = 4;

  /** What a sample is counted as: by the innermost frame that one of these names begins. */
  private static final Map<String, String> STAGES = new LinkedHashMap<>();

  static {
    STAGES.put("org.mnemex.engine.text", "analysing text");
    STAGES.put("org.mnemex.engine.write.MergedContent", "merging index files");
    STAGES.put("org.mnemex.engine.write", "writing index files");
    STAGES.put("org.mnemex.engine.codec", "");
    STAGES.put("org.mnemex.engine.read", "");
    STAGES.put("org.mnemex.sync.mapping", "mapping records");
    STAGES.put("org.mnemex.sync.definition", "mapping records");
    STAGES.put("org.mnemex.sync.record", "reading the database");
    STAGES.put("org.mnemex.sync.postgres", "reading the database");
    STAGES.put("org.postgresql", "reading the database");
    STAGES.put("org.mnemex.sync.feed.StoredRecordReader", "reading stored records");
  }

  private final PrintStream out;
  private final ServerGarden garden;
  private final ServiceProcess service;
  private final MnemexClient client;

  private RebuildBench(PrintStream out, ServerGarden garden, ServiceProcess service) {
    this.out = out;
    this.garden = garden;
    this.service = service;
    this.client = service.client();
  }

  /** Measures and prints: {@code [ACCESSIONS]}. */
  public static void main(String[] args) throws Exception {
    int accessions = args.length == 0 ? 100_000 : Integer.parseInt(args[0]);
    PrintStream out = new PrintStream(System.out, true, StandardCharsets.UTF_8);
    try (ServerGarden garden = ServerGarden.onPostgres(accessions);
        ServiceProcess service = ServiceProcess.start(garden.environment())) {
      out.printf(
          "Mnemex bench rebuild: %,d accessions on PostgreSQL, three joins, %d cores, Java %s%n",
          accessions, Runtime.getRuntime().availableProcessors(), Runtime.version());
      new RebuildBench(out, garden, service).run();
    }
  }

  private void run() throws Exception {
    Map<String, String> files = new LinkedHashMap<>(garden.definitions());
    String definition =
        List.of(SyncBench.DEFINITIONS.split("---\n")).stream()
            .filter(part -> part.startsWith("index: " + INDEX))
            .findFirst()
            .orElseThrow();
    files.put("bench.yaml", definition);
    double fromDatabase = fill("from the database", files);
    files.put("bench.yaml", definition.replace("analyser: english", "analyser: words"));
    double fromStored = fill("from stored records", files);
    out.printf(
        "from stored records is %.2f times as fast as from the database%n",
        fromStored / fromDatabase);
  }

  /** Fills an edition, prints how that went; records a second, with checks and promotion. */
  private double fill(String from, Map<String, String> files) throws Exception {
    Path recording = Files.createTempFile("mnemex-bench", ".jfr");
    flightRecorder("JFR.start", "name=fill", "settings=profile");
    long database = databaseTicks();
    long own = ticks(service.process().pid());
    long start = System.nanoTime();
    client.apply(files);
    await(() -> client.index(INDEX).live() != null && client.index(INDEX).next() == null);
    double seconds = (System.nanoTime() - start) / 1e9;
    double ownSeconds = (double) (ticks(service.process().pid()) - own) / TICKS_A_SECOND;
    double databaseSeconds = (double) (databaseTicks() - database) / TICKS_A_SECOND;
    flightRecorder("JFR.stop", "name=fill", "filename=" + recording);
    IndexStatus.Edition live = client.index(INDEX).live();
    if (live == null) {
      throw new IllegalStateException("the index has gone");
    }
    out.printf(
        "%s: %,d records in %.1f s, %,.0f records/s (filling alone %,d); processors: service %.1f s, database %.1f s%n",
        from,
        live.documents(),
        seconds,
        live.documents() / seconds,
        live.recordsPerSecond(),
        ownSeconds,
        databaseSeconds);
    printStages(recording);
    Files.delete(recording);
    return live.documents() / seconds;
  }

  private void flightRecorder(String... command) throws IOException, InterruptedException {
    List<String> line =
        new ArrayList<>(
            List.of(
                Path.of(System.getProperty("java.home"), "bin", "jcmd").toString(),
                Long.toString(service.process().pid())));
    line.addAll(List.of(command));
    Process process =
        new ProcessBuilder(line)
            .redirectErrorStream(true)
            .redirectOutput(ProcessBuilder.Redirect.DISCARD)
            .start();
    if (process.waitFor() != 0) {
      throw new IOException("jcmd failed: " + line);
    }
  }

  private void printStages(Path recording) throws IOException {
    Map<String, Integer> samples = new TreeMap<>();
    int all = 0;
    try (RecordingFile file = new RecordingFile(recording)) {
      while (file.hasMoreEvents()) {
        RecordedEvent event = file.readEvent();
        if (event.getEventType().getName().equals("jdk.ExecutionSample")
            && event.getStackTrace() != null) {
          all++;
          samples.merge(stage(event.getStackTrace().getFrames()), 1, Integer::sum);
        }
      }
    }
    int total = Math.max(1, all);
    out.println(
        samples.entrySet().stream()
            .sorted(Map.Entry.<String, Integer>comparingByValue().reversed())
            .map(one -> "%s %.0f %%".formatted(one.getKey(), 100.0 * one.getValue() / total))
            .collect(Collectors.joining("; ", "  the service's share of ", "")));
  }

  private static String stage(List<RecordedFrame> frames) {
    for (RecordedFrame frame : frames) {
      String type = frame.getMethod().getType().getName();
      for (Map.Entry<String, String> stage : STAGES.entrySet()) {
        // What has no stage of its own serves the one that calls it.
        if (type.startsWith(stage.getKey()) && !stage.getValue().isEmpty()) {
          return stage.getValue();
        }
        if (type.startsWith(stage.getKey())) {
          break;
        }
      }
    }
    return "the rest";
  }

  /** Processor time of a process and of its children that have ended, in ticks (proc(5)). */
  private static long ticks(long pid) {
    try {
      String stat = Files.readString(Path.of("/proc", Long.toString(pid), "stat"));
      String[] fields = stat.substring(stat.lastIndexOf(')') + 2).split(" ");
      long sum = 0;
      for (int i = FIRST_TIME; i < FIRST_TIME + TIMES; i++) {
        sum += Long.parseLong(fields[i]);
      }
      return sum;
    } catch (IOException e) {
      // It has ended in the meantime.
      return 0;
    }
  }

  private static long databaseTicks() {
    return ProcessHandle.allProcesses()
        .filter(process -> process.info().command().orElse("").endsWith("/postgres"))
        .mapToLong(process -> ticks(process.pid()))
        .sum();
  }

  private static void await(BooleanSupplier condition) {
    long deadline = System.nanoTime() + TimeUnit.MINUTES.toNanos(PATIENCE_MINUTES);
    while (!condition.getAsBoolean()) {
      if (System.nanoTime() > deadline) {
        throw new IllegalStateException("waited %d minutes in vain".formatted(PATIENCE_MINUTES));
      }
      LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(200));
    }
  }
}
