package org.mnemex.service.insight;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.concurrent.ThreadLocalRandom;
import org.jspecify.annotations.Nullable;

/**
 * Names an answer, so that it can be said later which of its results was opened. It carries what is
 * needed to count that; nobody keeps a list of answers.
 *
 * @param typing whether the words were still being typed
 * @param hour hours since 1970, UTC
 * @param passed how many results were passed over before its first one
 * @param number by chance; tells answers apart
 * @param words what was searched for, as it is compared
 */
record AnswerId(boolean typing, int hour, int passed, long number, String words) {
  private static final int HEAD = 1 + 2 * Integer.BYTES + Long.BYTES;
  private static final int LONGEST = 1200;
  private static final Duration HOUR = Duration.ofHours(1);

  static AnswerId of(boolean typing, Instant time, int passed, String words) {
    int hour = Math.toIntExact(time.getEpochSecond() / HOUR.toSeconds());
    return new AnswerId(typing, hour, passed, ThreadLocalRandom.current().nextLong(), words);
  }

  /** When it was answered, to the hour. */
  Instant time() {
    return Instant.EPOCH.plus(HOUR.multipliedBy(hour));
  }

  /** Letters, digits, hyphens and underscores. */
  String text() {
    byte[] said = words.getBytes(StandardCharsets.UTF_8);
    byte[] all =
        ByteBuffer.allocate(HEAD + said.length)
            .put((byte) (typing ? 1 : 0))
            .putInt(hour)
            .putInt(passed)
            .putLong(number)
            .put(said)
            .array();
    return Base64.getUrlEncoder().withoutPadding().encodeToString(all);
  }

  /** Reads it; null if the text is none. */
  static @Nullable AnswerId parse(String text) {
    if (text.length() > LONGEST) {
      return null;
    }
    try {
      ByteBuffer all = ByteBuffer.wrap(Base64.getUrlDecoder().decode(text));
      if (all.remaining() < HEAD) {
        return null;
      }
      boolean typing = all.get() == 1;
      int hour = all.getInt();
      int passed = all.getInt();
      long number = all.getLong();
      return new AnswerId(
          typing, hour, passed, number, StandardCharsets.UTF_8.decode(all).toString());
    } catch (IllegalArgumentException e) {
      return null;
    }
  }
}
