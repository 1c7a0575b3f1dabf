package org.mnemex.sync.extract;

import java.io.IOException;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.concurrent.Semaphore;
import org.jspecify.annotations.Nullable;

/** A few processes that read files, started as they are needed. Thread-safe. */
final class Readers {
  private static final int MAX_PROCESSES = 4;
  private static final int MEGABYTES = 512;

  /** Those of this service. */
  static final Readers SHARED = new Readers(MEGABYTES);

  private final int megabytes;

  /** Fair, and without a limit on waiting: each file before has its own limit. */
  private final Semaphore places =
      new Semaphore(Math.min(MAX_PROCESSES, Runtime.getRuntime().availableProcessors()), true);

  private final Deque<ReaderProcess> idle = new ArrayDeque<>();

  /**
   * @param megabytes the memory limit of each process
   */
  Readers(int megabytes) {
    this.megabytes = megabytes;
  }

  /**
   * The text of a file.
   *
   * @param limit for this file, from the time that a process is free for it
   * @throws ReaderLostException if it takes longer, or ends the process that reads it
   * @throws ExtractionException if the file has no text, or no process can be started
   */
  String read(FileKind kind, byte[] file, Duration limit)
      throws ExtractionException, ReaderLostException, InterruptedException {
    places.acquire();
    try {
      ReaderProcess reader = take();
      try {
        return reader.read(kind, file, limit);
      } finally {
        giveBack(reader);
      }
    } catch (IOException e) {
      throw new ExtractionException(
          "no process can be started to read files in: " + e.getMessage(), e);
    } finally {
      places.release();
    }
  }

  private ReaderProcess take() throws IOException, InterruptedException {
    for (ReaderProcess reader = poll(); reader != null; reader = poll()) {
      if (reader.isUsable()) {
        return reader;
      }
      reader.close();
    }
    return ReaderProcess.start(megabytes);
  }

  private @Nullable ReaderProcess poll() {
    synchronized (idle) {
      return idle.pollLast();
    }
  }

  private void giveBack(ReaderProcess reader) {
    if (reader.isUsable()) {
      synchronized (idle) {
        idle.addLast(reader);
      }
    }
  }
}
