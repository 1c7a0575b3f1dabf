package org.mnemex.engine.query;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** The lexemes of a filter, taken one after the other. */
final class FilterLexemes {
  private static final Set<String> RESERVED =
      Set.of(
          "AND",
          "OR",
          "NOT",
          "IN",
          "BETWEEN",
          "LIKE",
          "IS",
          "NULL",
          "DATE",
          "TIMESTAMP",
          "TRUE",
          "FALSE",
          "WHERE");

  private final List<Lexeme> lexemes;
  private int at;

  /**
   * Cuts a filter into lexemes.
   *
   * @throws FilterSyntaxException if a text or name has no closing quote
   */
  FilterLexemes(String text) {
    this.lexemes = new Lexer(text).read();
  }

  /** The next lexeme, which stays. */
  Lexeme peek() {
    return lexemes.get(at);
  }

  /** Takes the next lexeme; the end stays. */
  Lexeme next() {
    Lexeme lexeme = lexemes.get(at);
    if (lexeme.kind != Kind.END) {
      at++;
    }
    return lexeme;
  }

  /** Puts the last lexeme back. */
  void back() {
    at--;
  }

  /** Takes a word of the language if it comes next. */
  boolean takeWord(String word) {
    if (isWord(peek(), word)) {
      at++;
      return true;
    }
    return false;
  }

  /** Takes a symbol if it comes next. */
  boolean takeSymbol(String symbol) {
    if (peek().kind == Kind.SYMBOL && peek().text.equals(symbol)) {
      at++;
      return true;
    }
    return false;
  }

  void expectWord(String word) {
    if (!takeWord(word)) {
      throw peek().error("expected " + word + ", found '" + peek().text + "'", null);
    }
  }

  void expectSymbol(String symbol) {
    if (!takeSymbol(symbol)) {
      throw peek().error("expected '" + symbol + "', found '" + peek().text + "'", null);
    }
  }

  static boolean isWord(Lexeme lexeme, String word) {
    return lexeme.kind == Kind.NAME && lexeme.text.equalsIgnoreCase(word);
  }

  static boolean isReserved(Lexeme lexeme) {
    return RESERVED.contains(lexeme.text.toUpperCase(Locale.ROOT));
  }

  /** Kinds of lexemes. */
  enum Kind {
    NAME,
    /** A name in double quotes, which is never a word of the language. */
    QUOTED,
    STRING,
    NUMBER,
    SYMBOL,
    END
  }

  /**
   * A name, text, number or symbol of a filter.
   *
   * @param line where it begins, from 1, and in which column, from 1
   */
  record Lexeme(Kind kind, String text, int line, int column) {
    FilterSyntaxException error(String what, @Nullable String suggestion) {
      return new FilterSyntaxException(line, column, what, suggestion);
    }
  }

  /** Cuts the filter into names, strings, numbers and symbols. */
  private static final class Lexer {
    private static final Map<Character, String> TWO_CHARACTERS =
        Map.of('<', "=>", '>', "=", '!', "=");
    private final String text;
    private int at;
    private int line = 1;
    private int lineStart;

    Lexer(String text) {
      this.text = text;
    }

    List<Lexeme> read() {
      List<Lexeme> out = new ArrayList<>();
      while (true) {
        skipSpace();
        int column = at - lineStart + 1;
        if (at == text.length()) {
          out.add(new Lexeme(Kind.END, "the end", line, column));
          return out;
        }
        char c = text.charAt(at);
        int start = at;
        if (Character.isLetter(c) || c == '_') {
          while (at < text.length()
              && (Character.isLetterOrDigit(text.charAt(at)) || text.charAt(at) == '_')) {
            at++;
          }
          out.add(new Lexeme(Kind.NAME, text.substring(start, at), line, column));
        } else if (isDigit(c) || (c == '-' && digitFollows())) {
          at++;
          while (at < text.length()
              && (isDigit(text.charAt(at)) || (text.charAt(at) == '.' && digitFollows()))) {
            at++;
          }
          out.add(new Lexeme(Kind.NUMBER, text.substring(start, at), line, column));
        } else if (c == '\'') {
          out.add(new Lexeme(Kind.STRING, quoted(column), line, column));
        } else if (c == '"') {
          out.add(new Lexeme(Kind.QUOTED, quoted(column), line, column));
        } else {
          at++;
          if (at < text.length()
              && TWO_CHARACTERS.getOrDefault(c, "").indexOf(text.charAt(at)) >= 0) {
            at++;
          }
          out.add(new Lexeme(Kind.SYMBOL, text.substring(start, at), line, column));
        }
      }
    }

    private boolean digitFollows() {
      return at + 1 < text.length() && isDigit(text.charAt(at + 1));
    }

    private static boolean isDigit(char c) {
      return c >= '0' && c <= '9';
    }

    private void skipSpace() {
      while (at < text.length() && Character.isWhitespace(text.charAt(at))) {
        if (text.charAt(at) == '\n') {
          line++;
          lineStart = at + 1;
        }
        at++;
      }
    }

    /** A text in single quotes, or a name in double ones; a quote in it is written twice. */
    private String quoted(int column) {
      StringBuilder out = new StringBuilder();
      int startLine = line;
      char quote = text.charAt(at++);
      while (at < text.length()) {
        char c = text.charAt(at++);
        if (c == '\n') {
          line++;
          lineStart = at;
        }
        if (c != quote) {
          out.append(c);
        } else if (at < text.length() && text.charAt(at) == quote) {
          out.append(quote);
          at++;
        } else {
          return out.toString();
        }
      }
      throw new FilterSyntaxException(
          startLine,
          column,
          quote == '"' ? "the name has no closing quote" : "the text has no closing quote",
          null);
    }
  }
}
