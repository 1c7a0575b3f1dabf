package org.mnemex.sync.definition;

import com.google.re2j.Pattern;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.TemporalAccessor;
import java.util.Map;
import org.mnemex.engine.schema.Numbers;

/** One step of cleaning a field's values, in the order of the definition. */
public sealed interface CleanStep {
  /** Removes white space at both ends. */
  record Trim() implements CleanStep {}

  /** Collapses runs of white space to one space. */
  record Squeeze() implements CleanStep {}

  /** Extracts the text of HTML; block elements separate words. */
  record StripHtml() implements CleanStep {}

  /** Splits a value at a separator. */
  record Split(String separator) implements CleanStep {}

  record Lower() implements CleanStep {}

  record Upper() implements CleanStep {}

  /**
   * Truncates values.
   *
   * @param characters Unicode code points
   */
  record Truncate(int characters) implements CleanStep {}

  /** Replaces codes by their titles; unknown codes stay. */
  record Lookup(Map<String, String> titles) implements CleanStep {
    public Lookup {
      titles = Map.copyOf(titles);
    }
  }

  /**
   * Replaces matches of an expression.
   *
   * @param find in RE2 syntax, whose matching is linear in the text
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

  /** Joins several values into one. */
  record JoinValues(String separator) implements CleanStep {}

  /** A value for missing ones. */
  record Default(String value) implements CleanStep {}

  /**
   * Parses days of another form into {@code 2026-05-04}.
   *
   * @param pattern letters as in {@link DateTimeFormatter}
   */
  record ParseDate(String pattern) implements CleanStep {
    /** The day of a text; an empty text stays empty. */
    public String parse(String text) {
      return text.isBlank()
          ? ""
          : LocalDate.parse(text.strip(), DatePatterns.formatter(pattern)).toString();
    }
  }

  /**
   * Parses moments of another form into {@code 2026-05-04T10:00:00Z}.
   *
   * @param pattern letters as in {@link DateTimeFormatter}
   * @param zone used if the text names none
   */
  record ParseMoment(String pattern, ZoneId zone) implements CleanStep {
    /** The moment of a text; an empty text stays empty. */
    public String parse(String text) {
      if (text.isBlank()) {
        return "";
      }
      TemporalAccessor parsed =
          DatePatterns.formatter(pattern)
              .parseBest(text.strip(), ZonedDateTime::from, LocalDateTime::from, LocalDate::from);
      return switch (parsed) {
        case ZonedDateTime zoned -> zoned.toInstant().toString();
        case LocalDateTime local -> local.atZone(zone).toInstant().toString();
        case LocalDate day -> day.atStartOfDay(zone).toInstant().toString();
        default -> throw new DateTimeException("'" + text + "' is not a moment");
      };
    }
  }

  /**
   * Parses numbers of another form into {@code 1234.5}.
   *
   * @param mark the decimal mark; other points, commas, apostrophes and spaces are grouping and are
   *     removed
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
        throw new NumberFormatException("'" + text + "' is not a number");
      }
    }
  }
}
