package org.mnemex.sync.definition;

import com.google.re2j.Pattern;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.TemporalAccessor;
import java.util.Locale;
import java.util.Map;
import org.mnemex.engine.schema.Numbers;

/** One step of cleaning a field's values, in the order of the definition. */
public sealed interface CleanStep {
  /** White space at both ends goes. */
  record Trim() implements CleanStep {}

  /** Runs of white space become one space. */
  record Squeeze() implements CleanStep {}

  /** HTML becomes its text; block elements break words. */
  record StripHtml() implements CleanStep {}

  /** One value becomes several, cut at a separator. */
  record Split(String separator) implements CleanStep {}

  record Lower() implements CleanStep {}

  record Upper() implements CleanStep {}

  /**
   * What is behind so many characters goes.
   *
   * @param characters Unicode code points
   */
  record Truncate(int characters) implements CleanStep {}

  /** Codes become their titles; a code without one stays. */
  record Lookup(Map<String, String> titles) implements CleanStep {
    public Lookup {
      titles = Map.copyOf(titles);
    }
  }

  /**
   * What matches an expression is replaced.
   *
   * @param find in the syntax of RE2, which never takes longer than the text is long
   * @param with may name groups as {@code $1}
   */
  record Replace(Pattern find, String with) implements CleanStep {
    @Override
    public boolean equals(Object other) {
      return other instanceof Replace replace
          && replace.find.pattern().equals(find.pattern())
          && replace.with.equals(with);
    }

    @Override
    public int hashCode() {
      return 31 * find.pattern().hashCode() + with.hashCode();
    }
  }

  /** Several values become one. */
  record JoinValues(String separator) implements CleanStep {}

  /** A value where there is none. */
  record Default(String value) implements CleanStep {}

  /**
   * A day in another form becomes one like {@code 2026-05-04}.
   *
   * @param pattern letters as in {@link DateTimeFormatter}
   */
  record ParseDate(String pattern) implements CleanStep {
    /** The day of a text; an empty text stays empty. */
    public String parse(String text) {
      return text.isBlank() ? "" : LocalDate.parse(text.strip(), formatter(pattern)).toString();
    }
  }

  /**
   * A moment in another form becomes one like {@code 2026-05-04T10:00:00Z}.
   *
   * @param pattern letters as in {@link DateTimeFormatter}
   * @param zone where the text names none
   */
  record ParseMoment(String pattern, ZoneId zone) implements CleanStep {
    /** The moment of a text; an empty text stays empty. */
    public String parse(String text) {
      if (text.isBlank()) {
        return "";
      }
      TemporalAccessor parsed =
          formatter(pattern)
              .parseBest(text.strip(), ZonedDateTime::from, LocalDateTime::from, LocalDate::from);
      return switch (parsed) {
        case ZonedDateTime zoned -> zoned.toInstant().toString();
        case LocalDateTime local -> local.atZone(zone).toInstant().toString();
        case LocalDate day -> day.atStartOfDay(zone).toInstant().toString();
        default -> throw new DateTimeException("'" + text + "' is no moment");
      };
    }
  }

  /**
   * A number in another form becomes one like {@code 1234.5}.
   *
   * @param mark what stands before the decimals; a point, a comma, an apostrophe or a space that is
   *     something else groups digits and goes
   */
  record ParseNumber(char mark) implements CleanStep {
    /** The number of a text; an empty text stays empty. */
    public String parse(String text) {
      if (text.isBlank()) {
        return "";
      }
      StringBuilder plain = new StringBuilder();
      for (char c : text.strip().toCharArray()) {
        if (c == mark) {
          plain.append('.');
        } else if (c != '.' && c != ',' && c != '\'' && c != '’' && !Character.isSpaceChar(c)) {
          plain.append(c);
        }
      }
      try {
        return Numbers.parse(plain.toString()).toPlainString();
      } catch (NumberFormatException e) {
        throw new NumberFormatException("'" + text + "' is no number");
      }
    }
  }

  private static DateTimeFormatter formatter(String pattern) {
    return DateTimeFormatter.ofPattern(pattern, Locale.ENGLISH);
  }
}
