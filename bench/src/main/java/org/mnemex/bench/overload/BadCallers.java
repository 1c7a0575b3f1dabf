package org.mnemex.bench.overload;

import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicLong;

/** Callers who hold connections, send slowly, or send far too much. */
final class BadCallers {
  private static final int STREAMS = 2_000;
  private static final int SLOW_SENDERS = 200;
  private static final int LARGE_SENDERS = 4;
  private static final int CHUNKS = 200;
  private static final long PAUSE_MILLIS = 1_000;
  private static final long RETRY_MILLIS = 5_000;
  private static final int OK = 200;

  private final URI service;
  private final AtomicInteger open = new AtomicInteger();
  private final AtomicInteger mostOpen = new AtomicInteger();
  private final AtomicLong refusedStreams = new AtomicLong();
  private final AtomicLong cutOff = new AtomicLong();
  private final AtomicLong large = new AtomicLong();
  private final AtomicLong largeBytes = new AtomicLong();
  private volatile boolean ended;

  BadCallers(URI service) {
    this.service = service;
  }

  /** Starts all of them. */
  void start() {
    repeat(STREAMS, this::listen);
    repeat(SLOW_SENDERS, this::sendSlowly);
    repeat(LARGE_SENDERS, this::sendMuch);
  }

  void end() {
    ended = true;
  }

  /** What became of them. */
  @Override
  public String toString() {
    return ("%,d event streams at once at most, of %,d callers, refused %,d times; %d slow senders,"
            + " cut off %,d times; %,d bodies of %d MB, cut off after %.1f MB each")
        .formatted(
            mostOpen.get(),
            STREAMS,
            refusedStreams.get(),
            SLOW_SENDERS,
            cutOff.get(),
            large.get(),
            CHUNKS,
            largeBytes.get() / 1e6 / Math.max(1, large.get()));
  }

  /** What a caller does on a connection. */
  @FunctionalInterface
  private interface Act {
    void on(RawConnection connection) throws IOException, InterruptedException;
  }

  private void repeat(int callers, Act act) {
    for (int i = 0; i < callers; i++) {
      Thread.ofVirtual().start(() -> repeat(act));
    }
  }

  private void repeat(Act act) {
    while (!ended) {
      try (RawConnection connection = new RawConnection(service)) {
        act.on(connection);
      } catch (IOException e) {
        pause(PAUSE_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return;
      }
    }
  }

  private static void pause(long millis) {
    try {
      Thread.sleep(millis);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private void listen(RawConnection connection) throws IOException, InterruptedException {
    connection.send("GET /api/events");
    if (connection.status() != OK) {
      refusedStreams.incrementAndGet();
      Thread.sleep(RETRY_MILLIS);
      return;
    }
    mostOpen.accumulateAndGet(open.incrementAndGet(), Math::max);
    try {
      while (!ended) {
        connection.line();
      }
    } finally {
      open.decrementAndGet();
    }
  }

  private void sendSlowly(RawConnection connection) throws IOException, InterruptedException {
    connection.send("POST /api/check", "Content-Type: application/json", "Content-Length: 100000");
    try {
      while (!ended) {
        connection.send(new byte[] {' '});
        Thread.sleep(PAUSE_MILLIS);
      }
    } catch (IOException e) {
      cutOff.incrementAndGet();
    }
  }

  private void sendMuch(RawConnection connection) throws IOException {
    connection.send(
        "POST /api/check", "Content-Type: application/json", "Transfer-Encoding: chunked");
    byte[] size = "100000\r\n".getBytes(StandardCharsets.US_ASCII);
    byte[] chunk = " ".repeat(1 << 20).getBytes(StandardCharsets.US_ASCII);
    byte[] end = "\r\n".getBytes(StandardCharsets.US_ASCII);
    large.incrementAndGet();
    for (int i = 0; i < CHUNKS && !ended; i++) {
      connection.send(size);
      connection.send(chunk);
      connection.send(end);
      largeBytes.addAndGet(chunk.length);
    }
  }
}
