package org.mnemex.service.definition;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.AuditPlan;
import org.mnemex.sync.definition.AuditScope;
import org.mnemex.sync.definition.CompactPlan;
import org.mnemex.sync.definition.IndexDefinition;

/** Reads what an index definition says of operation: it does not affect what the index holds. */
final class OperationReader {
  private static final Pattern FRESHEST = Pattern.compile("(\\d{1,5})(ms|s)");
  private static final Duration SHORTEST = Duration.ofMillis(50);
  private static final Duration LONGEST = Duration.ofSeconds(60);

  private final YamlMap map;

  OperationReader(YamlMap map) {
    this.map = map;
  }

  @Nullable AuditPlan audits() {
    YamlMap audits = map.mapOrNull("audits");
    if (audits == null) {
      return null;
    }
    String key = "every";
    try {
      Duration every = AuditPlan.time(audits.text("every"));
      key = "sample";
      String sample = audits.textOr("sample", null);
      AuditScope scope = sample == null ? new AuditScope.All() : AuditPlan.sample(sample);
      boolean repair = audits.booleanOr("repair", false);
      audits.finish();
      return new AuditPlan(every, scope, repair);
    } catch (IllegalArgumentException e) {
      throw audits.problem(key, String.valueOf(e.getMessage()), null);
    }
  }

  @Nullable CompactPlan compact() {
    YamlMap compact = map.mapOrNull("compact");
    if (compact == null) {
      return null;
    }
    String key = "at";
    try {
      LocalTime at = CompactPlan.time(compact.text("at"));
      key = "zone";
      ZoneId zone = ZoneId.of(compact.textOr("zone", "UTC"));
      key = "deleted";
      double deleted = share(compact, "deleted", CompactPlan.USUAL_DELETED);
      compact.finish();
      return new CompactPlan(at, zone, deleted);
    } catch (DateTimeException e) {
      throw compact.problem(key, "there is no such time zone; one is Europe/London", null);
    } catch (IllegalArgumentException e) {
      throw compact.problem(key, String.valueOf(e.getMessage()), null);
    }
  }

  Duration grace() {
    String text = map.textOr("grace", null);
    if (text == null) {
      return IndexDefinition.USUAL_GRACE;
    }
    try {
      return text.equals("none") ? Duration.ZERO : AuditPlan.time(text);
    } catch (IllegalArgumentException e) {
      throw map.problem("grace", e.getMessage() + ", nor none", null);
    }
  }

  /** How late changes may be seen. */
  Duration freshest() {
    String text = map.textOr("freshest", null);
    if (text == null) {
      return IndexDefinition.USUAL_FRESHEST;
    }
    Matcher time = FRESHEST.matcher(text);
    if (time.matches()) {
      long number = Long.parseLong(time.group(1));
      Duration freshest =
          time.group(2).equals("s") ? Duration.ofSeconds(number) : Duration.ofMillis(number);
      if (freshest.compareTo(SHORTEST) >= 0 && freshest.compareTo(LONGEST) <= 0) {
        return freshest;
      }
    }
    throw map.problem(
        "freshest", "'" + text + "' is not a time from 50ms to 60s, such as 200ms or 2s", null);
  }

  /** The most documents that may be removed without approval, 0 to 1. */
  double mostRemoved() {
    return share(map, "most_removed", IndexDefinition.USUAL_MOST_REMOVED);
  }

  /** The most results that a new edition may change without approval, 0 to 1. */
  double mostChanged() {
    return share(map, "most_changed", IndexDefinition.USUAL_MOST_CHANGED);
  }

  private static double share(YamlMap map, String key, double usual) {
    String text = map.textOr(key, null);
    if (text == null) {
      return usual;
    }
    if (!text.matches("\\d{1,3}%") || Integer.parseInt(text.replace("%", "")) > 100) {
      throw map.problem(key, "'" + text + "' is not a share from 0% to 100%", null);
    }
    return Integer.parseInt(text.replace("%", "")) / 100.0;
  }

  boolean keepUnreadable() {
    return map.wordOr("unreadable", "remove", Set.of("remove", "keep")).equals("keep");
  }
}
