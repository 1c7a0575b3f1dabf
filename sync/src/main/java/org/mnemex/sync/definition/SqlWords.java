package org.mnemex.sync.definition;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;

/**
 * The names and symbols of an SQL expression, without its literals and comments. Accepts the quotes
 * of every database: double quotes, back quotes, and SQLite's brackets.
 */
final class SqlWords {
  /**
   * A name or a sign.
   *
   * @param text a name in lower case, or one character
   * @param isName whether it is a name
   */
  record Word(String text, boolean isName) {}

  private SqlWords() {}

  static List<Word> of(String sql) {
    List<Word> words = new ArrayList<>();
    int at = 0;
    while (at < sql.length()) {
      char c = sql.charAt(at);
      int end = at + 1;
      if (sql.startsWith("--", at)) {
        end = endOf(sql, "\n", at);
      } else if (sql.startsWith("/*", at)) {
        end = endOf(sql, "*/", at + 2);
      } else if (c == '\'') {
        end = quoted(sql, at, c);
      } else if (c == '"' || c == '`') {
        end = quoted(sql, at, c);
        String doubled = String.valueOf(c) + c;
        words.add(name(inside(sql, at, end).replace(doubled, String.valueOf(c))));
      } else if (c == '[') {
        end = endOf(sql, "]", at);
        words.add(name(inside(sql, at, end)));
      } else if (Character.isJavaIdentifierStart(c)) {
        while (end < sql.length() && Character.isJavaIdentifierPart(sql.charAt(end))) {
          end++;
        }
        words.add(name(sql.substring(at, end)));
      } else if (!Character.isWhitespace(c)) {
        words.add(new Word(String.valueOf(c), false));
      }
      at = end;
    }
    return words;
  }

  private static Word name(String text) {
    return new Word(text.toLowerCase(Locale.ROOT), true);
  }

  private static String inside(String sql, int start, int end) {
    return sql.substring(start + 1, Math.max(start + 1, end - 1));
  }

  /** The offset after the closing quote; a doubled quote does not close. */
  private static int quoted(String sql, int start, char quote) {
    int at = start + 1;
    while (at < sql.length()) {
      if (sql.charAt(at) != quote) {
        at++;
      } else if (at + 1 < sql.length() && sql.charAt(at + 1) == quote) {
        at += 2;
      } else {
        return at + 1;
      }
    }
    return sql.length();
  }

  private static int endOf(String sql, String what, int from) {
    int end = sql.indexOf(what, from);
    return end < 0 ? sql.length() : end + what.length();
  }
}
