package org.mnemex.sync.extract;

import java.io.BufferedInputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.FileDescriptor;
import java.io.FileOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;

/**
 * The main class of a process that reads files, so that a file that hangs or needs too much memory
 * harms only this process. {@link ReaderProcess} starts it.
 *
 * <p>Standard input holds requests: the kind ({@link DataOutputStream#writeUTF modified UTF-8}),
 * the time limit in milliseconds (8 bytes), the length (4 bytes) and the file. The first byte of
 * standard output is {@link #READY}; then each request is answered with {@link #TEXT} or {@link
 * #REFUSED}, a length (4 bytes) and as many bytes of UTF-8. Numbers are big-endian. The process
 * ends when its input does, when nothing is asked for five minutes, and a little after a time limit
 * if it was not ended by then: it never outlives the service for long.
 */
public final class ReaderMain {
  /** The process waits for its first request. */
  static final int READY = 1;

  /** The file's text follows. */
  static final int TEXT = 2;

  /** The reason follows why the file has no text. */
  static final int REFUSED = 3;

  /** An unused process ends after this time. */
  static final long IDLE_SECONDS = 300;

  private static final long SPARE_MILLIS = 5_000;
  private static final int MAX_MESSAGE = 200;

  private ReaderMain() {}

  /**
   * Reads files until the input ends.
   *
   * @param args none
   * @throws IOException if the service is gone
   */
  public static void main(String[] args) throws IOException {
    DataOutputStream answers = new DataOutputStream(new FileOutputStream(FileDescriptor.out));
    // A library that prints must not be taken for an answer.
    System.setOut(System.err);
    answer(new DataInputStream(new BufferedInputStream(System.in)), answers);
    // Not exit: nothing that a file left behind may delay the end.
    Runtime.getRuntime().halt(0);
  }

  private static void answer(DataInputStream requests, DataOutputStream answers)
      throws IOException {
    // Not closed, which would wait for what is scheduled; the caller ends the process.
    ScheduledExecutorService watchdog =
        Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("watchdog").factory());
    ScheduledFuture<?> end = endAfter(watchdog, TimeUnit.SECONDS.toMillis(IDLE_SECONDS));
    answers.writeByte(READY);
    answers.flush();
    while (true) {
      FileKind kind;
      try {
        kind = FileKind.valueOf(requests.readUTF());
      } catch (EOFException e) {
        return;
      }
      long limit = requests.readLong();
      end.cancel(false);
      end = endAfter(watchdog, limit + SPARE_MILLIS);
      answer(kind, requests, answers);
      end.cancel(false);
      end = endAfter(watchdog, TimeUnit.SECONDS.toMillis(IDLE_SECONDS));
    }
  }

  private static ScheduledFuture<?> endAfter(ScheduledExecutorService watchdog, long millis) {
    return watchdog.schedule(() -> Runtime.getRuntime().halt(1), millis, TimeUnit.MILLISECONDS);
  }

  private static void answer(FileKind kind, DataInputStream requests, DataOutputStream answers)
      throws IOException {
    int status = REFUSED;
    String answer;
    try {
      answer = kind.text(file(requests), TextExtractor.MAX_CHARACTERS);
      status = TEXT;
    } catch (ExtractionException e) {
      answer = String.valueOf(e.getMessage());
    } catch (StackOverflowError | OutOfMemoryError e) {
      answer = "the %s needs more memory to read than allowed".formatted(kind);
    } catch (IOException | RuntimeException e) {
      answer = "the %s is damaged: %s".formatted(kind, firstLine(e));
    }
    byte[] bytes = answer.getBytes(StandardCharsets.UTF_8);
    answers.writeByte(status);
    answers.writeInt(bytes.length);
    answers.write(bytes);
    answers.flush();
  }

  private static byte[] file(DataInputStream requests) throws IOException {
    byte[] file = new byte[requests.readInt()];
    requests.readFully(file);
    return file;
  }

  private static String firstLine(Throwable cause) {
    String line = String.valueOf(cause.getMessage()).lines().findFirst().orElse("");
    return line.length() > MAX_MESSAGE ? line.substring(0, MAX_MESSAGE) + "…" : line;
  }
}
