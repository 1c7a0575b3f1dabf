package org.mnemex.sync.mapping;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.mnemex.sync.definition.CleanStep;
import org.mnemex.sync.extract.HtmlText;

/** Applies clean-up steps to values. */
final class Cleaner {
  private Cleaner() {}

  /**
   * The values after all steps, without empty texts.
   *
   * @throws java.time.DateTimeException or NumberFormatException for a value that a step cannot
   *     parse
   */
  static List<String> clean(List<String> values, List<CleanStep> steps) {
    List<String> now = values;
    for (CleanStep step : steps) {
      now = whole(step, each(step, now));
    }
    for (String value : now) {
      if (value.isEmpty()) {
        return now.stream().filter(text -> !text.isEmpty()).toList();
      }
    }
    return now;
  }

  private static List<String> each(CleanStep step, List<String> values) {
    if (step instanceof CleanStep.Split split) {
      List<String> parts = new ArrayList<>();
      values.forEach(value -> cut(value, split.separator(), parts));
      return parts;
    }
    if (values.size() == 1) {
      return List.of(one(step, values.getFirst()));
    }
    List<String> next = new ArrayList<>(values.size());
    values.forEach(value -> next.add(one(step, value)));
    return next;
  }

  /** A value after a step that takes each value by itself. */
  private static String one(CleanStep step, String value) {
    return switch (step) {
      case CleanStep.Trim trim -> value.strip();
      case CleanStep.Squeeze squeeze -> squeezed(value);
      case CleanStep.StripHtml html -> html(value);
      case CleanStep.Lower lower -> value.toLowerCase(Locale.ROOT);
      case CleanStep.Upper upper -> value.toUpperCase(Locale.ROOT);
      case CleanStep.Truncate truncate -> truncated(value, truncate.characters());
      case CleanStep.Lookup lookup -> lookup.titles().getOrDefault(value, value);
      case CleanStep.Replace replace -> replace.find().matcher(value).replaceAll(replace.with());
      case CleanStep.ParseDate date -> date.parse(value);
      case CleanStep.ParseMoment moment -> moment.parse(value);
      case CleanStep.ParseNumber number -> number.parse(value);
      case CleanStep.Split split -> value;
      case CleanStep.JoinValues join -> value;
      case CleanStep.Default otherwise -> value;
    };
  }

  /** Steps that take all values together. */
  private static List<String> whole(CleanStep step, List<String> values) {
    List<String> present = values.stream().filter(value -> !value.isEmpty()).toList();
    return switch (step) {
      case CleanStep.JoinValues join ->
          present.isEmpty() ? present : List.of(String.join(join.separator(), present));
      case CleanStep.Default otherwise -> present.isEmpty() ? List.of(otherwise.value()) : present;
      default -> values;
    };
  }

  /** Truncated to a number of code points. */
  private static String truncated(String value, int characters) {
    return value.codePointCount(0, value.length()) <= characters
        ? value
        : value.substring(0, value.offsetByCodePoints(0, characters));
  }

  private static String html(String value) {
    return value.indexOf('<') < 0 && value.indexOf('&') < 0 ? value : HtmlText.ofFragment(value);
  }

  private static void cut(String value, String separator, List<String> parts) {
    int from = 0;
    for (int at = value.indexOf(separator); at >= 0; at = value.indexOf(separator, from)) {
      parts.add(value.substring(from, at));
      from = at + separator.length();
    }
    parts.add(value.substring(from));
  }

  private static String squeezed(String value) {
    StringBuilder out = new StringBuilder(value.length());
    for (int i = 0; i < value.length(); i++) {
      char c = value.charAt(i);
      if (!Character.isWhitespace(c) && !Character.isSpaceChar(c)) {
        out.append(c);
      } else if (!out.isEmpty() && out.charAt(out.length() - 1) != ' ') {
        out.append(' ');
      }
    }
    return out.toString().stripTrailing();
  }
}
