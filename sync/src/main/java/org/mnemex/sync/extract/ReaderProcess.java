package org.mnemex.sync.extract;

import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.net.URL;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;

/**
 * A process of its own that reads one file after another, with a memory limit and without the
 * service's environment. Used by one thread at a time.
 */
final class ReaderProcess implements AutoCloseable {
  private static final Duration START_LIMIT = Duration.ofMinutes(1);

  /** Where this process is not to be compiled for the long run, its readers are not either. */
  private static final String QUICK_COMPILER = "-XX:TieredStopAtLevel=1";

  private static final int MAX_ANSWER_BYTES = 4 * TextExtractor.MAX_CHARACTERS;

  private final Process process;
  private final DataOutputStream requests;
  private final DataInputStream answers;
  private long lastUsed = System.nanoTime();

  private ReaderProcess(Process process) {
    this.process = process;
    requests = new DataOutputStream(process.getOutputStream());
    answers = new DataInputStream(process.getInputStream());
  }

  /**
   * Starts a process and waits until it is ready.
   *
   * @param megabytes its memory limit for objects (the JVM's {@code -Xmx})
   * @throws IOException if it cannot be started
   */
  static ReaderProcess start(int megabytes) throws IOException, InterruptedException {
    ProcessBuilder builder =
        new ProcessBuilder(command(megabytes)).redirectError(ProcessBuilder.Redirect.DISCARD);
    builder.environment().clear();
    ReaderProcess reader = new ReaderProcess(builder.start());
    try {
      if (reader.within(START_LIMIT, reader.answers::read) == ReaderMain.READY) {
        return reader;
      }
    } catch (TimeoutException | ExtractionException e) {
      throw new IOException("it was not ready within %d s".formatted(START_LIMIT.toSeconds()), e);
    }
    reader.close();
    throw new IOException("it ended at once");
  }

  /**
   * The command that starts it. The system property {@code mnemex.readers.cache} may name a file
   * with what {@link ReaderTraining} recorded; without it a start only takes longer.
   */
  private static List<String> command(int megabytes) {
    List<String> command =
        new ArrayList<>(
            List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx" + megabytes + "m",
                "-XX:+UseSerialGC",
                "-XX:-UsePerfData",
                "-Djava.awt.headless=true"));
    if (ManagementFactory.getRuntimeMXBean().getInputArguments().contains(QUICK_COMPILER)) {
      command.add(QUICK_COMPILER);
    }
    String cache = System.getProperty("mnemex.readers.cache");
    if (cache != null && Files.exists(Path.of(cache))) {
      command.add("-XX:AOTCache=" + cache);
    }
    URL code = ReaderMain.class.getProtectionDomain().getCodeSource().getLocation();
    if (code.getProtocol().equals("jar")) {
      // Classes in a jar within a jar need the loader that the application itself came by.
      command.add("-Dloader.main=" + ReaderMain.class.getName());
      command.addAll(List.of("-cp", System.getProperty("java.class.path")));
      command.add("org.springframework.boot.loader.launch.PropertiesLauncher");
    } else {
      command.addAll(List.of("-cp", System.getProperty("java.class.path")));
      command.add(ReaderMain.class.getName());
    }
    return command;
  }

  /** Whether it can be given a file: it runs and will not end for lack of work just now. */
  boolean isUsable() {
    return process.isAlive()
        && System.nanoTime() - lastUsed < TimeUnit.SECONDS.toNanos(ReaderMain.IDLE_SECONDS / 2);
  }

  /**
   * The text of a file.
   *
   * @throws ReaderLostException if it takes longer than the limit or ends the process, which is
   *     closed then
   * @throws ExtractionException if the file has no text
   */
  String read(FileKind kind, byte[] file, Duration limit)
      throws ExtractionException, ReaderLostException, InterruptedException {
    try {
      return within(limit, () -> answer(kind, file, limit));
    } catch (TimeoutException e) {
      throw new ReaderLostException(
          "the %s takes longer than %d s to read".formatted(kind, limit.toSeconds()), e);
    } catch (IOException e) {
      throw new ReaderLostException("the %s ended the process that read it".formatted(kind), e);
    } finally {
      lastUsed = System.nanoTime();
    }
  }

  private String answer(FileKind kind, byte[] file, Duration limit)
      throws IOException, ExtractionException {
    requests.writeUTF(kind.name());
    requests.writeLong(limit.toMillis());
    requests.writeInt(file.length);
    requests.write(file);
    requests.flush();
    int status = answers.readByte();
    int length = answers.readInt();
    if (length < 0 || length > MAX_ANSWER_BYTES) {
      throw new IOException("an answer of " + length + " bytes");
    }
    String answer = new String(answers.readNBytes(length), StandardCharsets.UTF_8);
    if (status == ReaderMain.TEXT) {
      return answer;
    }
    throw new ExtractionException(answer, null);
  }

  /** Talks to the process on a thread of its own, because reading from a pipe cannot be stopped. */
  private <T> T within(Duration limit, Callable<T> talk)
      throws IOException, ExtractionException, TimeoutException, InterruptedException {
    FutureTask<T> task = new FutureTask<>(talk);
    Thread.ofPlatform().name("extract").daemon().start(task);
    boolean answered = false;
    try {
      T result = task.get(limit.toNanos(), TimeUnit.NANOSECONDS);
      answered = true;
      return result;
    } catch (ExecutionException e) {
      if (e.getCause() instanceof ExtractionException refused) {
        answered = true;
        throw refused;
      }
      throw new IOException(e.getCause());
    } finally {
      if (!answered) {
        close();
      }
    }
  }

  @Override
  public void close() {
    process.destroyForcibly();
  }
}
