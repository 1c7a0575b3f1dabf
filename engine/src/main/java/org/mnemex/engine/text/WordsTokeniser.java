package org.mnemex.engine.text;

import com.ibm.icu.text.BreakIterator;
import com.ibm.icu.util.ULocale;

/**
 * Words as Unicode Standard Annex #29 cuts them, with ICU's dictionaries for scripts that write no
 * spaces (Chinese, Japanese, Thai, Lao, Khmer, Burmese). Text that is all ASCII takes a plain loop
 * over the same rules, which a test compares with ICU.
 */
final class WordsTokeniser implements Tokeniser {
  private static final ThreadLocal<BreakIterator> BREAKS =
      ThreadLocal.withInitial(() -> BreakIterator.getWordInstance(ULocale.ROOT));

  @Override
  public String name() {
    return "words";
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    if (isAscii(text)) {
      tokeniseAscii(text, sink);
    } else {
      tokeniseUnicode(text, sink);
    }
  }

  static void tokeniseUnicode(CharSequence text, TokenSink sink) {
    BreakIterator breaks = BREAKS.get();
    breaks.setText(text);
    Token token = new Token();
    int position = 0;
    int start = breaks.first();
    for (int end = breaks.next(); end != BreakIterator.DONE; start = end, end = breaks.next()) {
      if (breaks.getRuleStatus() >= BreakIterator.WORD_NONE_LIMIT && tells(text, start, end)) {
        token.set(text, start, end, position++);
        sink.accept(token);
      }
    }
    breaks.setText("");
  }

  /** Whether there is more than underscores, which the standard joins like letters. */
  private static boolean tells(CharSequence text, int start, int end) {
    for (int i = start; i < end; i++) {
      if (text.charAt(i) != '_') {
        return true;
      }
    }
    return false;
  }

  /** Rules WB5 to WB13b, which are all that can apply within ASCII. */
  static void tokeniseAscii(CharSequence text, TokenSink sink) {
    Token token = new Token();
    int position = 0;
    int length = text.length();
    int at = 0;
    while (at < length) {
      if (!isWord(text.charAt(at))) {
        at++;
        continue;
      }
      int start = at;
      while (at < length) {
        char c = text.charAt(at);
        if (isWord(c)) {
          at++;
        } else if (at + 1 < length && joins(text.charAt(at - 1), c, text.charAt(at + 1))) {
          at++;
        } else {
          break;
        }
      }
      if (tells(text, start, at)) {
        token.set(text, start, at, position++);
        sink.accept(token);
      }
    }
  }

  private static boolean joins(char before, char mark, char after) {
    return switch (mark) {
      case '.', '\'' ->
          (isLetter(before) && isLetter(after)) || (isDigit(before) && isDigit(after));
      case ':' -> isLetter(before) && isLetter(after);
      case ',', ';' -> isDigit(before) && isDigit(after);
      default -> false;
    };
  }

  private static boolean isWord(char c) {
    return isLetter(c) || isDigit(c) || c == '_';
  }

  private static boolean isLetter(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
  }

  private static boolean isDigit(char c) {
    return c >= '0' && c <= '9';
  }

  private static boolean isAscii(CharSequence text) {
    for (int i = 0; i < text.length(); i++) {
      if (text.charAt(i) > 0x7F) {
        return false;
      }
    }
    return true;
  }
}
