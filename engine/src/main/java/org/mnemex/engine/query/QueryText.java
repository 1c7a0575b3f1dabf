package org.mnemex.engine.query;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * Reads what people type into a search box. Never an error: what makes no sense as syntax is text.
 *
 * <ul>
 *   <li>{@code shade fern}: both words
 *   <li>{@code "slug damage"}: a phrase
 *   <li>{@code -rust}: without
 *   <li>{@code fern OR moss}: one or the other
 *   <li>{@code harts*}: words that begin so
 * </ul>
 */
public final class QueryText {
  /** More words than this are ignored, so that a pasted page cannot become a giant query. */
  public static final int MAX_WORDS = 64;

  private final Map<String, Double> fields;
  private final String text;
  private final boolean lastIsPrefix;
  private int at;

  private QueryText(String text, Map<String, Double> fields, boolean lastIsPrefix) {
    this.text = text;
    this.fields = fields;
    this.lastIsPrefix = lastIsPrefix;
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
    return new QueryText(text, fields, lastIsPrefix).parse(all);
  }

  private Query parse(boolean all) {
    List<Query> wanted = new ArrayList<>();
    List<Query> unwanted = new ArrayList<>();
    boolean or = false;
    int words = 0;
    while (skipSpace() && words++ < MAX_WORDS) {
      boolean minus =
          text.charAt(at) == '-'
              && at + 1 < text.length()
              && !Character.isWhitespace(text.charAt(at + 1));
      if (minus) {
        at++;
      }
      String token = token();
      if (token.equals("OR") && !wanted.isEmpty() && !minus) {
        or = true;
        continue;
      }
      Query clause = clause(token);
      if (minus) {
        unwanted.add(new Query.Not(clause));
      } else if (or) {
        wanted.set(wanted.size() - 1, either(wanted.getLast(), clause));
      } else {
        wanted.add(clause);
      }
      or = false;
    }
    Query positive =
        switch (wanted.size()) {
          case 0 -> new Query.Everything();
          case 1 -> wanted.getFirst();
          default -> all ? new Query.AllOf(wanted) : new Query.AnyOf(wanted);
        };
    if (unwanted.isEmpty()) {
      return positive;
    }
    unwanted.addFirst(positive);
    return new Query.AllOf(unwanted);
  }

  private Query clause(String token) {
    if (token.startsWith("\"")) {
      String phrase =
          token.substring(1, token.endsWith("\"") ? token.length() - 1 : token.length());
      return new Query.Phrase(fields, phrase);
    }
    if (token.length() > 1 && token.endsWith("*")) {
      return new Query.Word(fields, token.substring(0, token.length() - 1), true);
    }
    boolean unfinished =
        lastIsPrefix && at == text.length() && !Character.isWhitespace(text.charAt(at - 1));
    return new Query.Word(fields, token, unfinished);
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

  /** A quoted phrase with its quotes, or everything up to the next white space. */
  private String token() {
    int start = at;
    if (text.charAt(at) == '"') {
      int close = text.indexOf('"', at + 1);
      if (close > at + 1) {
        at = close + 1;
        return text.substring(start, at);
      }
      at++;
      if (!skipSpace()) {
        return "";
      }
      start = at;
    }
    while (at < text.length() && !Character.isWhitespace(text.charAt(at))) {
      at++;
    }
    return text.substring(start, at);
  }
}
