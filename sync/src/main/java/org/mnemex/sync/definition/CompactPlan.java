package org.mnemex.sync.definition;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeParseException;
import java.util.regex.Pattern;

/**
 * When an index is compacted by itself.
 *
 * @param at when it may begin, every day
 * @param zone whose clock that is
 * @param deleted how much of its documents, 0 to 1, must be deleted
 */
public record CompactPlan(LocalTime at, ZoneId zone, double deleted) {
  /** The default share. */
  public static final double USUAL_DELETED = 0.1;

  /** Later it would disturb the day, for instance after a stop of the service over night. */
  public static final Duration WINDOW = Duration.ofHours(1);

  private static final Pattern TIME = Pattern.compile("\\d{2}:\\d{2}");

  /**
   * Reads {@code 03:30}.
   *
   * @throws IllegalArgumentException if it has another form
   */
  public static LocalTime time(String text) {
    try {
      if (TIME.matcher(text).matches()) {
        return LocalTime.parse(text);
      }
    } catch (DateTimeParseException e) {
      // Such as 25:00.
    }
    throw new IllegalArgumentException("'" + text + "' is not a time of day such as 03:30");
  }

  /** Whether it may begin: within an hour after its time. */
  public boolean isTime(Instant now) {
    ZonedDateTime here = now.atZone(zone);
    ZonedDateTime last = here.with(at);
    if (last.isAfter(here)) {
      last = here.minusDays(1).with(at);
    }
    return Duration.between(last, here).compareTo(WINDOW) < 0;
  }
}
