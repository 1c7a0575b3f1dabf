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

  private static final byte LETTER = 1;
  private static final byte DIGIT = 2;
  private static final byte UNDERSCORE = 3;

  /** Kinds of the characters of ASCII that stand in words; 0 for the others. */
  private static final byte[] KINDS = new byte[0x80];

  static {
    for (char c = 0; c < KINDS.length; c++) {
      KINDS[c] =
          (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z')
              ? LETTER
              : c >= '0' && c <= '9' ? DIGIT : c == '_' ? UNDERSCORE : 0;
    }
  }

  @Override
  public String name() {
    return "words";
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    int all = 0;
    for (char c : chars) {
      all |= c;
    }
    if (all < 0x80) {
      tokeniseAscii(chars, sink);
    } else {
      tokeniseUnicode(text, chars, sink);
    }
  }

  static void tokeniseUnicode(CharSequence text, char[] chars, TokenSink sink) {
    BreakIterator breaks = BREAKS.get();
    breaks.setText(text);
    Token token = new Token();
    int position = 0;
    int start = breaks.first();
    for (int end = breaks.next(); end != BreakIterator.DONE; start = end, end = breaks.next()) {
      if (breaks.getRuleStatus() >= BreakIterator.WORD_NONE_LIMIT && tells(chars, start, end)) {
        token.set(chars, start, end, position++, false);
        sink.accept(token);
      }
    }
    breaks.setText("");
  }

  /** Whether there is more than underscores, which the standard joins like letters. */
  private static boolean tells(char[] text, int start, int end) {
    for (int i = start; i < end; i++) {
      if (text[i] != '_') {
        return true;
      }
    }
    return false;
  }

  /** Rules WB5 to WB13b, which are all that can apply within ASCII. */
  static void tokeniseAscii(char[] text, TokenSink sink) {
    Token token = new Token();
    int position = 0;
    int length = text.length;
    int at = 0;
    while (at < length) {
      if (KINDS[text[at]] == 0) {
        at++;
        continue;
      }
      int start = at;
      while (at < length) {
        char c = text[at];
        if (KINDS[c] != 0) {
          at++;
        } else if (at + 1 < length && joins(text[at - 1], c, text[at + 1])) {
          at++;
        } else {
          break;
        }
      }
      if (text[start] != '_' || tells(text, start, at)) {
        token.set(text, start, at, position++, true);
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

  private static boolean isLetter(char c) {
    return KINDS[c] == LETTER;
  }

  private static boolean isDigit(char c) {
    return KINDS[c] == DIGIT;
  }
}
