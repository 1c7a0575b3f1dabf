package org.mnemex.bench;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import java.util.stream.Collectors;
import jdk.jfr.consumer.RecordedFrame;
import org.mnemex.client.ApplyOptions;
import org.mnemex.client.IndexStatus;

/**
 * Fills an edition of an index: the rate, and what the processors were busy with, by samples of the
 * service's stacks (JDK Flight Recorder).
 */
final class Filling {
  private static final int TICKS_A_SECOND = 100;

  /** utime, stime, cutime and cstime, counted from the field after the command. */
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
  private final ServiceProcess service;

  Filling(PrintStream out, ServiceProcess service) {
    this.out = out;
    this.service = service;
  }

  /**
   * Applies definitions and waits until the index that they change has its new edition; prints how
   * that went.
   *
   * @return records a second of the filling alone
   */
  long measure(String index, String from, Map<String, String> files) throws Exception {
    int before =
        service.client().indexes().stream()
            .filter(one -> one.name().equals(index))
            .map(IndexStatus::live)
            .filter(Objects::nonNull)
            .mapToInt(IndexStatus.Edition::number)
            .findFirst()
            .orElse(0);
    FlightRecording recording = new FlightRecording(service, "settings=profile");
    long database = databaseTicks();
    long own = ticks(service.process().pid());
    long start = System.nanoTime();
    service.client().apply(files, new ApplyOptions(true, null, false));
    ServiceProcess.await(
        () -> {
          IndexStatus status = service.client().index(index);
          return status.live() != null && status.next() == null;
        });
    double seconds = (System.nanoTime() - start) / 1e9;
    double ownSeconds = (double) (ticks(service.process().pid()) - own) / TICKS_A_SECOND;
    double databaseSeconds = (double) (databaseTicks() - database) / TICKS_A_SECOND;
    Map<String, Integer> samples = new TreeMap<>();
    recording.end("jdk.ExecutionSample", frames -> samples.merge(stage(frames), 1, Integer::sum));
    IndexStatus.Edition live = service.client().index(index).live();
    if (live == null || live.number() == before) {
      throw new IllegalStateException("nothing was filled");
    }
    out.printf(
        "%s %s: %,d records, %,d records/s (with checks and promotion %,.0f); processors: service %.1f s, database %.1f s%n",
        index,
        from,
        live.documents(),
        live.recordsPerSecond(),
        live.documents() / seconds,
        ownSeconds,
        databaseSeconds);
    printStages(samples);
    return live.recordsPerSecond();
  }

  private void printStages(Map<String, Integer> samples) {
    int total = Math.max(1, samples.values().stream().mapToInt(Integer::intValue).sum());
    out.println(
        samples.entrySet().stream()
            .sorted(Map.Entry.<String, Integer>comparingByValue().reversed())
            .map(one -> "%s %.0f%%".formatted(one.getKey(), 100.0 * one.getValue() / total))
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
        .filter(process -> process.info().command().orElse("").matches(".*/(postgres|mariadbd)"))
        .mapToLong(process -> ticks(process.pid()))
        .sum();
  }
}
