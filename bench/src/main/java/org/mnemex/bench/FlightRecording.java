package org.mnemex.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Consumer;
import jdk.jfr.consumer.RecordedEvent;
import jdk.jfr.consumer.RecordedFrame;
import jdk.jfr.consumer.RecordingFile;

/** A recording of what a process is busy with, by JDK Flight Recorder. */
final class FlightRecording {
  private static final String NAME = "name=bench";

  private final long process;

  /**
   * Begins it.
   *
   * @param settings of the recording, such as {@code settings=profile}
   */
  FlightRecording(ServiceProcess service, String... settings)
      throws IOException, InterruptedException {
    process = service.process().pid();
    List<String> command = new ArrayList<>(List.of("JFR.start", NAME));
    command.addAll(List.of(settings));
    tell(command);
  }

  /**
   * Ends it.
   *
   * @param event the event that samples stacks
   * @param sample receives each stack, the innermost frame first
   */
  void end(String event, Consumer<List<RecordedFrame>> sample)
      throws IOException, InterruptedException {
    Path recording = Files.createTempFile("mnemex-bench", ".jfr");
    tell(List.of("JFR.stop", NAME, "filename=" + recording));
    try (RecordingFile file = new RecordingFile(recording)) {
      while (file.hasMoreEvents()) {
        RecordedEvent one = file.readEvent();
        if (one.getEventType().getName().equals(event) && one.getStackTrace() != null) {
          sample.accept(one.getStackTrace().getFrames());
        }
      }
    }
    Files.delete(recording);
  }

  private void tell(List<String> command) throws IOException, InterruptedException {
    List<String> line =
        new ArrayList<>(
            List.of(
                Path.of(System.getProperty("java.home"), "bin", "jcmd").toString(),
                Long.toString(process)));
    line.addAll(command);
    Process jcmd =
        new ProcessBuilder(line)
            .redirectErrorStream(true)
            .redirectOutput(ProcessBuilder.Redirect.DISCARD)
            .start();
    if (jcmd.waitFor() != 0) {
      throw new IOException("jcmd failed: " + line);
    }
  }
}
