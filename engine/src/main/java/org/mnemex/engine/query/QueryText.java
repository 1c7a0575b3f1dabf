package org.mnemex.engine.query;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.ToIntFunction;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Parses what people type into a search box. Never an error: invalid syntax is text.
 *
 * <ul>
 *   <li>{@code shade fern}: both words
 *   <li>{@code "slug damage"}: a phrase
 *   <li>{@code -rust}: without
 *   <li>{@code fern OR moss}: one or the other
 *   <li>{@code harts*}: words that begin so; {@code h*tongue}, {@code f?rn}: any text, any
 *       character
 *   <li>{@code "slug dam*"}: a phrase whose last word begins so
 *   <li>{@code slug NEAR/5 damage}: both, with at most five words between
 *   <li>{@code slug BEFORE/5 damage}: the same, in this order
 *   <li>{@code name:fern}: in one field, if the reader allows it
 * </ul>
 */
public final class QueryText {
  /** Further words are ignored, so that a pasted page cannot become a giant query. */
  public static final int MAX_WORDS = 64;

  private static final Pattern NEAR = Pattern.compile("(NEAR|BEFORE)(?:/(\\d{1,3}))?");
  private static final int NEAR_WORDS = 10;

  /** Words within this distance score higher. */
  private static final int CLOSE = 8;

  private static final double CLOSE_WEIGHT = 0.5;
  private static final int MAX_CLOSE = 5;

  private final Reading reading;
  private final String text;
  private int at;

  /**
   * How a text is read.
   *
   * @param fields weight by field name
   * @param wanted how many of the words must be found
   * @param lastIsPrefix whether the last word may still be being typed
   * @param typos whether words may have typing errors, more in longer words
   * @param close whether words that stand close together score more
   * @param named fields that can be named in the text
   * @param joined how many of some words, from the first one on, belong together, such as those of
   *     a phrase with synonyms; 0 if not several
   */
  public record Reading(
      Map<String, Double> fields,
      Wanted wanted,
      boolean lastIsPrefix,
      boolean typos,
      boolean close,
      Set<String> named,
      ToIntFunction<List<String>> joined) {
    public Reading {
      fields = Map.copyOf(fields);
      named = Set.copyOf(named);
    }
  }

  private QueryText(String text, Reading reading) {
    this.text = text;
    this.reading = reading;
  }

  /**
   * The query for {@code text} in the given fields.
   *
   * @param fields weight by field name
   * @param all whether all words are wanted, or any of them
   * @param lastIsPrefix whether the last word may still be being typed
   */
  public static Query parse(
      String text, Map<String, Double> fields, boolean all, boolean lastIsPrefix) {
    return parse(
        text,
        new Reading(
            fields,
            all ? Wanted.ALL : Wanted.ANY,
            lastIsPrefix,
            false,
            false,
            Set.of(),
            words -> 0));
  }

  /** The query for {@code text}. */
  public static Query parse(String text, Reading reading) {
    return new QueryText(text, reading).parse();
  }

  /**
   * The words of a text that a query may also do without, in their order: neither phrases nor
   * excluded words, nor the sides of {@code OR}, {@code NEAR} and {@code BEFORE}.
   */
  public static List<PlainWord> plainWords(String text) {
    Reading none = new Reading(Map.of(), Wanted.ALL, false, false, false, Set.of(), words -> 0);
    return new QueryText(text, none).plainWords();
  }

  private List<PlainWord> plainWords() {
    List<PlainWord> words = new ArrayList<>();
    boolean joined = false;
    int read = 0;
    while (skipSpace() && read++ < MAX_WORDS) {
      int start = at;
      String token = token();
      if (token.equals("OR") || NEAR.matcher(token).matches()) {
        if (!words.isEmpty() && !joined) {
          words.removeLast();
        }
        joined = true;
      } else if (!token.isEmpty()) {
        boolean plain = !token.startsWith("\"") && (token.length() == 1 || !token.startsWith("-"));
        if (plain && !joined) {
          words.add(new PlainWord(start, at, token));
        }
        joined = false;
      }
    }
    return words;
  }

  private Query parse() {
    List<Query> wanted = new ArrayList<>();
    List<Query> unwanted = new ArrayList<>();
    List<String> plain = new ArrayList<>();
    boolean or = false;
    int words = 0;
    Map<Integer, List<PlainWord>> joined = joined();
    while (skipSpace() && words++ < MAX_WORDS) {
      List<PlainWord> together = joined.get(at);
      if (together != null) {
        wanted.add(together(together));
        plain.clear();
        continue;
      }
      boolean minus =
          text.charAt(at) == '-'
              && at + 1 < text.length()
              && !Character.isWhitespace(text.charAt(at + 1));
      if (minus) {
        at++;
      }
      String token = token();
      if (token.isEmpty()) {
        continue;
      }
      if (token.equals("OR") && !wanted.isEmpty() && !minus) {
        or = true;
        continue;
      }
      Matcher near = NEAR.matcher(token);
      if (near.matches() && !plain.isEmpty() && !minus && nextIsWord()) {
        skipSpace();
        int distance = near.group(2) == null ? NEAR_WORDS : Integer.parseInt(near.group(2));
        String second = token();
        wanted.set(
            wanted.size() - 1,
            new Query.Near(
                reading.fields,
                List.of(plain.getLast(), second),
                distance,
                near.group(1).equals("BEFORE")));
        plain.clear();
        continue;
      }
      Query clause = clause(token);
      if (minus) {
        unwanted.add(new Query.Unless(clause));
      } else if (or) {
        wanted.set(wanted.size() - 1, either(wanted.getLast(), clause));
        plain.clear();
      } else {
        wanted.add(clause);
        if (clause instanceof Query.Word || clause instanceof Query.Typo) {
          plain.add(token);
        } else {
          plain.clear();
        }
      }
      or = false;
    }
    Query positive = positive(wanted, plain);
    if (unwanted.isEmpty()) {
      return positive;
    }
    unwanted.addFirst(positive);
    return new Query.AllOf(unwanted);
  }

  /** Neighbouring words that belong together, by where they begin. */
  private Map<Integer, List<PlainWord>> joined() {
    Map<Integer, List<PlainWord>> joined = new HashMap<>();
    List<PlainWord> words = plainWords(text);
    for (int i = 0; i < words.size(); i++) {
      int end = i + 1;
      while (end < words.size()
          && text.substring(words.get(end - 1).end(), words.get(end).start()).isBlank()) {
        end++;
      }
      List<PlainWord> neighbours = words.subList(i, end);
      int length = reading.joined.applyAsInt(neighbours.stream().map(PlainWord::text).toList());
      if (length > 1) {
        joined.put(words.get(i).start(), neighbours.subList(0, length));
        i += length - 1;
      }
    }
    return joined;
  }

  /** The words as usual, or what they mean together. */
  private Query together(List<PlainWord> words) {
    List<Query> each = new ArrayList<>();
    for (PlainWord word : words) {
      at = word.end();
      each.add(clause(word.text()));
    }
    String phrase = text.substring(words.getFirst().start(), at);
    return new Query.AnyOf(
        List.of(several(each), new Query.Phrase(reading.fields, phrase, 0, false)));
  }

  private Query positive(List<Query> wanted, List<String> plain) {
    Query positive =
        switch (wanted.size()) {
          case 0 -> new Query.Everything();
          case 1 -> wanted.getFirst();
          default -> several(wanted);
        };
    boolean several = plain.size() > 1 && plain.size() == wanted.size();
    return reading.close && several && plain.size() <= MAX_CLOSE
        ? new Query.Prefer(
            positive,
            new Query.Weighted(new Query.Near(reading.fields, plain, CLOSE, false), CLOSE_WEIGHT))
        : positive;
  }

  private Query several(List<Query> clauses) {
    return reading.wanted.equals(Wanted.ALL)
        ? new Query.AllOf(clauses)
        : reading.wanted.equals(Wanted.ANY)
            ? new Query.AnyOf(clauses)
            : new Query.Some(reading.wanted, clauses);
  }

  private boolean nextIsWord() {
    int next = at;
    while (next < text.length() && Character.isWhitespace(text.charAt(next))) {
      next++;
    }
    return next < text.length() && text.charAt(next) != '"' && text.charAt(next) != '-';
  }

  private Query clause(String token) {
    int colon = token.indexOf(':');
    if (colon > 0
        && colon + 1 < token.length()
        && reading.named.contains(token.substring(0, colon))) {
      return word(Map.of(token.substring(0, colon), 1.0), token.substring(colon + 1));
    }
    return word(reading.fields, token);
  }

  private Query word(Map<String, Double> fields, String token) {
    if (token.startsWith("\"")) {
      String phrase =
          token.substring(1, token.endsWith("\"") ? token.length() - 1 : token.length());
      boolean unfinished = phrase.length() > 1 && phrase.endsWith("*");
      return new Query.Phrase(
          fields, unfinished ? phrase.substring(0, phrase.length() - 1) : phrase, 0, unfinished);
    }
    int wild = token.indexOf('*');
    boolean question = token.indexOf('?') > 0 && token.indexOf('?') < token.length() - 1;
    if (token.length() > 1 && wild == token.length() - 1 && !question) {
      return new Query.Word(fields, token.substring(0, token.length() - 1), true);
    }
    if ((wild > 0 || question) && token.length() <= PatternText.MAX_UNITS / 4) {
      return new Query.Wildcard(fields, token);
    }
    boolean unfinished =
        reading.lastIsPrefix && at == text.length() && !Character.isWhitespace(text.charAt(at - 1));
    return reading.typos
        ? Edits.word(fields, token, unfinished, 0)
        : new Query.Word(fields, token, unfinished);
  }

  private static Query either(Query first, Query second) {
    List<Query> clauses = new ArrayList<>();
    if (first instanceof Query.AnyOf any) {
      clauses.addAll(any.clauses());
    } else {
      clauses.add(first);
    }
    clauses.add(second);
    return new Query.AnyOf(clauses);
  }

  private boolean skipSpace() {
    while (at < text.length() && Character.isWhitespace(text.charAt(at))) {
      at++;
    }
    return at < text.length();
  }

  /** A quoted phrase with its quotes, or everything up to the next white space; may be empty. */
  private String token() {
    int start = at;
    if (text.charAt(at) == '"') {
      int close = text.indexOf('"', at + 1);
      if (close > at + 1) {
        at = close + 1;
        return text.substring(start, at);
      }
      // Quotes around nothing, or one that is never closed.
      at += close < 0 ? 1 : 2;
      return "";
    }
    while (at < text.length() && !Character.isWhitespace(text.charAt(at))) {
      at++;
    }
    return text.substring(start, at);
  }
}
