package org.mnemex.service.compute;

import io.github.bucket4j.Bucket;
import java.io.IOException;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicInteger;
import org.mnemex.service.problem.ProblemException;
import org.mnemex.service.problem.ProblemType;
import org.springframework.stereotype.Component;

/** Limits how many event streams are open, of a key and in all, and how fast they are opened. */
@Component
public class EventStreams {
  private static final int MAX_STREAMS = 500;
  private static final int MAX_STREAMS_OF_KEY = 100;
  private static final int MAX_OPENED_AT_ONCE = 100;
  private static final int MAX_OPENED_A_SECOND = 20;

  /** When to try again, in seconds. */
  public static final int RETRY_SECONDS = 5;

  private final AtomicInteger all = new AtomicInteger();
  private final Map<String, AtomicInteger> byKey = new ConcurrentHashMap<>();
  private final Bucket openings =
      Bucket.builder()
          .addLimit(
              rate ->
                  rate.capacity(MAX_OPENED_AT_ONCE)
                      .refillGreedy(MAX_OPENED_A_SECOND, Duration.ofSeconds(1)))
          .build();

  /** What sends an open stream until it ends. */
  @FunctionalInterface
  public interface Stream {
    void send() throws IOException, InterruptedException;
  }

  /** Counts an attempt to open a stream; false if there were too many. */
  public boolean mayOpen() {
    return all.get() < MAX_STREAMS && openings.tryConsume(1);
  }

  /** What {@link #mayOpen} allows, in a sentence. */
  public String openingLimits() {
    return "the limits of %d event streams in all and %d opened a second are reached"
        .formatted(MAX_STREAMS, MAX_OPENED_A_SECOND);
  }

  /**
   * Sends a stream, unless its key has too many.
   *
   * @param keyId whose stream it is
   * @throws ProblemException 503 if a limit is reached
   */
  public void run(String keyId, Stream stream) throws IOException, InterruptedException {
    AtomicInteger own = byKey.computeIfAbsent(keyId, key -> new AtomicInteger());
    boolean tooMany = own.incrementAndGet() > MAX_STREAMS_OF_KEY;
    tooMany |= all.incrementAndGet() > MAX_STREAMS;
    try {
      if (tooMany) {
        throw new ProblemException(
                ProblemType.TOO_BUSY,
                "the limits of %d event streams for a key and %d in all are reached"
                    .formatted(MAX_STREAMS_OF_KEY, MAX_STREAMS))
            .retryAfter(RETRY_SECONDS);
      }
      stream.send();
    } finally {
      own.decrementAndGet();
      all.decrementAndGet();
    }
  }
}
