package org.mnemex.engine.facet;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.mnemex.engine.schema.Field;

/** Sorts counted values and keeps the requested number. */
final class ValueOrder {
  private ValueOrder() {}

  /** Counts and choices. */
  static FacetResult result(ValueFacet request, Field field, List<FacetResult.Value> counted) {
    return result(request, request.chosen(), field, counted);
  }

  /**
   * @param chosen as it would stand in {@code counted}
   */
  static FacetResult result(
      ValueFacet request, List<Object> chosen, Field field, List<FacetResult.Value> counted) {
    List<FacetResult.Value> all = new ArrayList<>(counted);
    Set<Object> seen = new HashSet<>();
    counted.forEach(value -> seen.add(value.value()));
    for (Object value : chosen) {
      if (seen.add(value)) {
        all.add(new FacetResult.Value(value, 0, true));
      }
    }
    all.sort(comparator(request, field));
    List<FacetResult.Value> shown = new ArrayList<>();
    for (int i = 0; i < all.size(); i++) {
      if (i < request.limit() || all.get(i).chosen()) {
        shown.add(all.get(i));
      }
    }
    return new FacetResult(request.name(), shown, all.size() > shown.size());
  }

  static Comparator<FacetResult.Value> comparator(ValueFacet request, Field field) {
    Comparator<FacetResult.Value> byValue = (a, b) -> compare(field, a.value(), b.value(), false);
    Comparator<FacetResult.Value> byCount =
        Comparator.comparingLong(FacetResult.Value::count).reversed().thenComparing(byValue);
    return switch (request.order()) {
      case COUNT -> byCount;
      case VALUE -> byValue;
      case NATURAL -> (a, b) -> compare(field, a.value(), b.value(), true);
      case GIVEN ->
          Comparator.<FacetResult.Value>comparingInt(
                  value -> {
                    int at = place(request.given(), value.value(), field);
                    return at < 0 ? Integer.MAX_VALUE : at;
                  })
              .thenComparing(byCount);
    };
  }

  private static int place(List<Object> given, Object value, Field field) {
    if (!field.fold()) {
      return given.indexOf(value);
    }
    String term = field.term((String) value);
    for (int i = 0; i < given.size(); i++) {
      if (field.term((String) given.get(i)).equals(term)) {
        return i;
      }
    }
    return -1;
  }

  private static int compare(Field field, Object a, Object b, boolean natural) {
    if (field.type().isNumeric()) {
      return compareNumbers(a, b);
    }
    String x = (String) a;
    String y = (String) b;
    String lowerX = x.toLowerCase(Locale.ROOT);
    String lowerY = y.toLowerCase(Locale.ROOT);
    int folded = natural ? natural(lowerX, lowerY) : lowerX.compareTo(lowerY);
    return folded != 0 ? folded : x.compareTo(y);
  }

  private static int compareNumbers(Object a, Object b) {
    return switch (a) {
      case Long x -> x.compareTo((Long) b);
      case BigDecimal x -> x.compareTo((BigDecimal) b);
      case LocalDate x -> x.compareTo((LocalDate) b);
      case Instant x -> x.compareTo((Instant) b);
      case Boolean x -> x.compareTo((Boolean) b);
      default -> throw new IllegalArgumentException(a.getClass() + " is not a number");
    };
  }

  /** Runs of digits compare as numbers, everything else as text. */
  static int natural(String a, String b) {
    int i = 0;
    int j = 0;
    while (i < a.length() && j < b.length()) {
      if (isDigit(a.charAt(i)) && isDigit(b.charAt(j))) {
        int endA = digits(a, i);
        int endB = digits(b, j);
        int byNumber = compareNumbers(a.substring(i, endA), b.substring(j, endB));
        if (byNumber != 0) {
          return byNumber;
        }
        i = endA;
        j = endB;
      } else {
        int byChar = Character.compare(a.charAt(i++), b.charAt(j++));
        if (byChar != 0) {
          return byChar;
        }
      }
    }
    return Integer.compare(a.length() - i, b.length() - j);
  }

  private static int compareNumbers(String a, String b) {
    String x = a.replaceFirst("^0+", "");
    String y = b.replaceFirst("^0+", "");
    return x.length() != y.length() ? Integer.compare(x.length(), y.length()) : x.compareTo(y);
  }

  private static int digits(String text, int from) {
    int end = from;
    while (end < text.length() && isDigit(text.charAt(end))) {
      end++;
    }
    return end;
  }

  private static boolean isDigit(char c) {
    return c >= '0' && c <= '9';
  }
}
