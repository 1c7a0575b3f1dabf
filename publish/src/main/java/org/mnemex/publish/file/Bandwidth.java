package org.mnemex.publish.file;

import io.github.bucket4j.Bucket;
import java.io.InterruptedIOException;
import java.time.Duration;
import org.jspecify.annotations.Nullable;

/** How many bytes a second may be sent or fetched, together by all threads. */
public final class Bandwidth {
  /** No limit. */
  public static final Bandwidth UNLIMITED = new Bandwidth(null);

  private final @Nullable Bucket bucket;

  private Bandwidth(@Nullable Bucket bucket) {
    this.bucket = bucket;
  }

  /**
   * A limit; parts are sent whole, so it holds over the time of a few parts.
   *
   * @param bytesPerSecond the limit; 0 for none
   */
  public static Bandwidth of(long bytesPerSecond) {
    if (bytesPerSecond == 0) {
      return UNLIMITED;
    }
    return new Bandwidth(
        Bucket.builder()
            .addLimit(
                limit ->
                    limit
                        .capacity(Math.max(bytesPerSecond, FileSender.PART_BYTES))
                        .refillGreedy(bytesPerSecond, Duration.ofSeconds(1)))
            .build());
  }

  /** Waits until some bytes may go. */
  void await(int bytes) throws InterruptedIOException {
    if (bucket != null && bytes > 0) {
      try {
        bucket.asBlocking().consume(bytes);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        throw new InterruptedIOException("interrupted while waiting for bandwidth");
      }
    }
  }
}
