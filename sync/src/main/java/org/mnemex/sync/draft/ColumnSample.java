package org.mnemex.sync.draft;

import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** What a sample of values tells about a column. */
final class ColumnSample {
  private static final Pattern EMAIL = Pattern.compile("[^@\\s]+@[^@\\s]+\\.[A-Za-z]{2,}");
  private static final Pattern PHONE = Pattern.compile("\\+?[0-9][0-9 ()/.-]{6,}[0-9]");

  /** Numbers, days and addresses of networks. */
  private static final Pattern NO_PHONE =
      Pattern.compile("[0-9.-]+|\\d{1,4}/\\d{1,2}/\\d{1,4}|\\d{1,3}(\\.\\d{1,3}){3}/\\d{1,2}");

  private static final Pattern HTML = Pattern.compile("</?[a-zA-Z][^>]*>");
  private static final Pattern JSON = Pattern.compile("(?s)\\s*[\\[{].*[\\]}]\\s*");
  private static final Pattern PERSONAL_NAME =
      Pattern.compile(
          "(?i).*(e_?mail|phone|mobile|telefon|fax|birth|passw|secret|token|ssn|iban|passport"
              + "|credit_?card|salary|ip_?addr|street|postcode|zip_?code).*");
  private static final double MOST = 0.3;

  /** Fewer different numbers are no spread. */
  private static final int MANY_NUMBERS = 12;

  private static final int MAX_SCALE = 9;
  private static final int MONTHS = 12;

  /** Numbers with a decimal comma, or with grouping. */
  private static final String UNCLEAR = "-?\\d+,\\d{3}";

  /** Every whole number of so many characters fits into 64 bits. */
  private static final int LONG_DIGITS = 18;

  /** One alone may be anything: "y", or "de" in an identifier. */
  private static final int TELLING_WORDS = 2;

  /** So small a share of other values is probably a mistake. */
  private static final double FEW = 0.05;

  private static final int TOLD = 30;

  private static final Map<String, String> KINDS =
      new TreeMap<>(Map.of("day", "\\d{4}-\\d\\d-\\d\\d", "number", "-?\\d+(\\.\\d+)?"));

  /** Words that are frequent in one language and rare in others. */
  private static final Map<String, Set<String>> FREQUENT =
      Map.of(
          "english", Set.of("the", "and", "of", "with", "was", "were", "is", "has", "been"),
          "german", Set.of("der", "die", "und", "das", "nicht", "mit", "ist", "wurde", "eine"),
          "french", Set.of("le", "les", "des", "est", "avec", "une", "dans", "du", "et"),
          "spanish", Set.of("el", "los", "las", "con", "una", "por", "está", "y", "del"),
          "italian", Set.of("il", "gli", "della", "con", "una", "per", "è", "sono", "di"),
          "dutch", Set.of("het", "een", "van", "niet", "met", "zijn", "de", "op", "voor"));

  final String name;
  final int values;
  final int distinct;
  final double words;
  final int longest;
  private final List<String> texts;

  ColumnSample(String name, List<Map<String, Object>> rows) {
    this(
        name,
        rows.stream()
            .filter(row -> row.get(name) != null)
            .flatMap(row -> values(row.get(name)))
            // Many tables say nothing by an empty text.
            .filter(text -> !text.isBlank()));
  }

  private ColumnSample(String name, Stream<String> texts) {
    this.name = name;
    this.texts = texts.toList();
    this.values = this.texts.size();
    this.distinct = new HashSet<>(this.texts).size();
    this.words =
        this.texts.stream().mapToInt(text -> text.strip().split("\\s+").length).average().orElse(0);
    this.longest = this.texts.stream().mapToInt(String::length).max().orElse(0);
  }

  /** A list is several values. */
  private static Stream<String> values(Object value) {
    return value instanceof Collection<?> several
        ? several.stream().map(String::valueOf)
        : Stream.of(String.valueOf(value));
  }

  private boolean many(Pattern pattern, boolean whole) {
    long count =
        texts.stream()
            .filter(text -> whole ? pattern.matcher(text).matches() : pattern.matcher(text).find())
            .count();
    return values > 0 && count >= MOST * values;
  }

  /** Why the column looks personal, or empty. */
  String personal() {
    if (PERSONAL_NAME.matcher(name).matches()) {
      return "its name";
    }
    if (many(EMAIL, true)) {
      return "e-mail addresses";
    }
    return many(PHONE, true) && texts.stream().noneMatch(text -> NO_PHONE.matcher(text).matches())
        ? "telephone numbers"
        : "";
  }

  /** Addresses of pages or pictures. */
  boolean isAddress() {
    return matches("https?://\\S+");
  }

  /** Addresses of pictures, by the ends of their names. */
  boolean isPicture() {
    return matches("(?i)\\S+\\.(png|jpe?g|gif|webp|avif|svg)([?#]\\S*)?");
  }

  /**
   * Ranges with about a quarter of the values each, between round numbers, as definitions write
   * them. Empty if there are too few values or they do not spread.
   */
  List<String> ranges() {
    if (distinct < MANY_NUMBERS) {
      return List.of();
    }
    double[] sorted = texts.stream().mapToDouble(Double::parseDouble).sorted().toArray();
    List<String> bounds = new ArrayList<>();
    for (int quarter = 1; quarter <= 3; quarter++) {
      String bound = round(sorted[quarter * sorted.length / 4]);
      if (!bounds.contains(bound)) {
        bounds.add(bound);
      }
    }
    boolean spreads = bounds.size() >= 2 && sorted[0] < sorted[sorted.length - 1];
    if (!spreads) {
      return List.of();
    }
    List<String> ranges = new ArrayList<>(List.of(".." + bounds.getFirst()));
    for (int i = 1; i < bounds.size(); i++) {
      ranges.add(bounds.get(i - 1) + ".." + bounds.get(i));
    }
    ranges.add(bounds.getLast() + "..");
    return ranges;
  }

  /** How many digits stand behind the point at most: 2 to 9. */
  int scale() {
    int digits = 2;
    for (String text : texts) {
      digits = Math.max(digits, new BigDecimal(text).scale());
    }
    return Math.min(digits, MAX_SCALE);
  }

  /**
   * The mark before the decimals of numbers with a decimal comma or with grouping: a comma or a
   * point. Empty if these are no such numbers, or if it cannot be told: 1,299 may be either.
   */
  String decimalMark() {
    for (String mark : List.of(",", ".")) {
      String plain = "-?\\d+\\%s\\d+".formatted(mark);
      String grouped = "-?\\d{1,3}(\\%s\\d{3})+(\\%s\\d+)?".formatted(other(mark), mark);
      boolean isMarked = texts.stream().anyMatch(text -> text.contains(mark));
      boolean isGrouped = texts.stream().anyMatch(text -> text.matches(grouped));
      boolean isClear = isGrouped || mark.equals(",") && !matches(UNCLEAR);
      if (isMarked && isClear && matches(plain + "|" + grouped)) {
        return mark;
      }
    }
    return "";
  }

  private static String other(String mark) {
    return mark.equals(",") ? "." : ",";
  }

  /** The same numbers with a point before the decimals, and no grouping. */
  ColumnSample withPoint(String mark) {
    return new ColumnSample(
        name, texts.stream().map(text -> text.replace(other(mark), "").replace(mark, ".")));
  }

  /** The form of days that are written with the year last; empty if these are no such days. */
  String dayForm() {
    for (String mark : List.of(".", "/", "-")) {
      String day = "(\\d{1,2})\\%1$s(\\d{1,2})\\%1$s\\d{4}".formatted(mark);
      if (matches(day)) {
        Pattern parts = Pattern.compile(day);
        boolean monthSecond = texts.stream().allMatch(text -> isMonth(parts, text, 2));
        boolean monthFirst = texts.stream().allMatch(text -> isMonth(parts, text, 1));
        if (monthSecond && (!monthFirst || mark.equals("."))) {
          return "d%1$sM%1$syyyy".formatted(mark);
        }
        return monthFirst && !monthSecond ? "M%1$sd%1$syyyy".formatted(mark) : "";
      }
    }
    return "";
  }

  private static boolean isMonth(Pattern parts, String text, int group) {
    Matcher matcher = parts.matcher(text);
    return matcher.matches() && Integer.parseInt(matcher.group(group)) <= MONTHS;
  }

  /** To two digits, of which the second is 0 or 5. */
  private static String round(double value) {
    if (value == 0) {
      return "0";
    }
    BigDecimal step = BigDecimal.ONE.movePointRight((int) Math.floor(Math.log10(Math.abs(value))));
    BigDecimal half = step.divide(BigDecimal.TWO, MathContext.DECIMAL64);
    BigDecimal steps = BigDecimal.valueOf(value).divide(half, 0, RoundingMode.HALF_UP);
    return steps.multiply(half).stripTrailingZeros().toPlainString();
  }

  /** Whether whole numbers of these values are such as an index can hold. */
  boolean fits() {
    return longest <= LONG_DIGITS;
  }

  /** Whether the values only distinguish rows, as whole numbers and identifiers do. */
  boolean isNumbering() {
    return values == 0 || matches("-?\\d+") || isIdentifier();
  }

  /** Whether all are identifiers as RFC 9562 writes them. */
  boolean isIdentifier() {
    return matches("\\p{XDigit}{8}(-\\p{XDigit}{4}){3}-\\p{XDigit}{12}");
  }

  boolean isHtml() {
    return many(HTML, false);
  }

  boolean isJson() {
    return many(JSON, true);
  }

  /** Whether texts are lists, like {@code 5,6,7}. */
  boolean isList() {
    return values > 0
        && !matches(UNCLEAR)
        && texts.stream().anyMatch(text -> text.indexOf(',') > 0)
        && texts.stream().allMatch(text -> text.matches("[\\w-]+(,[\\w-]+)*"));
  }

  /**
   * Why a column that is nearly one of days or numbers is proposed as texts, with a value that is
   * none; empty if it is not nearly so.
   */
  String nearly() {
    for (Map.Entry<String, String> kind : KINDS.entrySet()) {
      List<String> others = texts.stream().filter(text -> !text.matches(kind.getValue())).toList();
      if (!others.isEmpty() && others.size() <= FEW * values) {
        String one = others.getFirst().strip().replaceAll("\\s+", " ");
        return "texts, as %d of %d values %s no %s: '%s'"
            .formatted(
                others.size(),
                values,
                others.size() == 1 ? "is" : "are",
                kind.getKey(),
                one.substring(0, Math.min(one.length(), TOLD)));
      }
    }
    return "";
  }

  boolean matches(String pattern) {
    return values > 0 && texts.stream().allMatch(text -> text.matches(pattern));
  }

  /** Few enough values to choose from. */
  boolean isChoice() {
    return distinct > 1 && (values < 10 ? distinct < 3 : distinct <= 40 && distinct * 3 <= values);
  }

  /** The analyser of the detected language, or {@code words}. */
  String analyser() {
    String best = "words";
    long most = Math.max(2, values / 20);
    for (Map.Entry<String, Set<String>> language : FREQUENT.entrySet()) {
      List<String> found =
          texts.stream()
              .flatMap(text -> Stream.of(text.toLowerCase(Locale.ROOT).split("[^\\p{L}]+")))
              .filter(language.getValue()::contains)
              .toList();
      if (new HashSet<>(found).size() >= TELLING_WORDS
          && (found.size() > most
              || found.size() == most && language.getKey().compareTo(best) < 0)) {
        most = found.size();
        best = language.getKey();
      }
    }
    return best;
  }
}
