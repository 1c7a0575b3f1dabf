package org.mnemex.sync.definition;

import java.time.Duration;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Scheduled audits.
 *
 * @param every time from start to start
 * @param repair whether to repair differences
 */
public record AuditPlan(Duration every, AuditScope scope, boolean repair) {
  private static final Pattern TIME = Pattern.compile("(\\d{1,4})(s|m|h|d)");
  private static final Pattern SHARE = Pattern.compile("(\\d{1,2}(?:\\.\\d{1,4})?)%");

  /**
   * Reads {@code 10s}, {@code 30m}, {@code 6h} or {@code 1d}.
   *
   * @throws IllegalArgumentException if it has another form
   */
  public static Duration time(String text) {
    Matcher time = TIME.matcher(text);
    if (!time.matches() || Integer.parseInt(time.group(1)) == 0) {
      throw new IllegalArgumentException(
          "'" + text + "' is not a duration like 10s, 30m, 6h or 1d");
    }
    int count = Integer.parseInt(time.group(1));
    return switch (time.group(2)) {
      case "s" -> Duration.ofSeconds(count);
      case "m" -> Duration.ofMinutes(count);
      case "h" -> Duration.ofHours(count);
      default -> Duration.ofDays(count);
    };
  }

  /**
   * Reads {@code 0.1%}.
   *
   * @throws IllegalArgumentException if it has another form
   */
  public static AuditScope sample(String text) {
    Matcher share = SHARE.matcher(text);
    if (!share.matches() || Double.parseDouble(share.group(1)) == 0) {
      throw new IllegalArgumentException("'" + text + "' is not a share like 0.1%");
    }
    return new AuditScope.Sample(Double.parseDouble(share.group(1)) / 100);
  }
}
