package org.mnemex.engine.text;

import com.ibm.icu.lang.UCharacter;
import com.ibm.icu.lang.UProperty;
import com.ibm.icu.lang.UScript;
import com.ibm.icu.text.BreakIterator;
import com.ibm.icu.util.ULocale;
import java.util.Set;

/**
 * Words as Unicode Standard Annex #29 cuts them, with ICU's dictionaries for scripts that write no
 * spaces (Chinese, Japanese, Thai, Lao, Khmer, Burmese). Text of Latin, Cyrillic, Greek, Armenian
 * and Arabic letters without combining marks takes a plain loop over the same rules, which a test
 * compares with ICU.
 */
final class WordsTokeniser implements Tokeniser {
  private static final Spares<BreakIterator> BREAKS =
      new Spares<>(() -> BreakIterator.getWordInstance(ULocale.ROOT));

  // What stands in words is below 0, so that one comparison tells.
  private static final byte LETTER = -1;
  private static final byte DIGIT = -2;
  private static final byte UNDERSCORE = -3;

  /** Joins letters, numbers, or both. */
  private static final byte MID_LETTER = 4;

  private static final byte MID_NUMBER = 5;
  private static final byte MID_BOTH = 6;

  /** Needs more rules than the loop has, or a dictionary. */
  private static final byte COMPLEX = 7;

  private static final Set<Integer> PLAIN_SCRIPTS =
      Set.of(
          UScript.LATIN,
          UScript.CYRILLIC,
          UScript.GREEK,
          UScript.ARMENIAN,
          UScript.ARABIC,
          UScript.COMMON);

  /** Characters from here on take the long way. */
  private static final int KINDS_SIZE = 0x2C00;

  /** Kinds of characters; 0 for those that separate words. */
  private static final byte[] KINDS = new byte[KINDS_SIZE];

  static {
    for (char c = 0; c < KINDS_SIZE; c++) {
      KINDS[c] = kind(c);
    }
  }

  private static byte kind(char c) {
    boolean plain = PLAIN_SCRIPTS.contains(UScript.getScript(c));
    return switch (UCharacter.getIntPropertyValue(c, UProperty.WORD_BREAK)) {
      case UCharacter.WordBreak.ALETTER -> plain ? LETTER : COMPLEX;
      case UCharacter.WordBreak.NUMERIC -> plain ? DIGIT : COMPLEX;
      case UCharacter.WordBreak.EXTENDNUMLET -> c == '_' ? UNDERSCORE : COMPLEX;
      case UCharacter.WordBreak.MIDLETTER -> MID_LETTER;
      case UCharacter.WordBreak.MIDNUM -> MID_NUMBER;
      case UCharacter.WordBreak.MIDNUMLET, UCharacter.WordBreak.SINGLE_QUOTE -> MID_BOTH;
      case UCharacter.WordBreak.CR,
          UCharacter.WordBreak.LF,
          UCharacter.WordBreak.NEWLINE,
          UCharacter.WordBreak.DOUBLE_QUOTE,
          UCharacter.WordBreak.WSEGSPACE ->
          0;
      case UCharacter.WordBreak.OTHER -> plain ? 0 : COMPLEX;
      default -> COMPLEX;
    };
  }

  @Override
  public String name() {
    return "words";
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    char[] chars = text.toString().toCharArray();
    if (!tokenisePlain(chars, sink)) {
      tokeniseUnicode(text, chars, sink);
    }
  }

  static void tokeniseUnicode(CharSequence text, char[] chars, TokenSink sink) {
    BreakIterator breaks = BREAKS.take();
    try {
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
    } finally {
      BREAKS.giveBack(breaks);
    }
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

  /**
   * Rules WB5 to WB13b, which are all that can apply to these characters.
   *
   * @return whether there are no others; nothing was done if there are
   */
  static boolean tokenisePlain(char[] text, TokenSink sink) {
    int any = 0;
    for (char c : text) {
      any |= c;
    }
    if (any >= 0x80) {
      for (char c : text) {
        if (c >= KINDS_SIZE || KINDS[c] == COMPLEX) {
          return false;
        }
      }
    }
    Token token = new Token();
    int position = 0;
    int length = text.length;
    int at = 0;
    while (at < length) {
      if (!isInWord(text[at])) {
        at++;
        continue;
      }
      int start = at;
      int all = 0;
      while (at < length) {
        char c = text[at];
        if (isInWord(c)
            || at + 1 < length && joins(KINDS[text[at - 1]], KINDS[c], KINDS[text[at + 1]])) {
          all |= c;
          at++;
        } else {
          break;
        }
      }
      if (text[start] != '_' || tells(text, start, at)) {
        token.set(text, start, at, position++, all < 0x80);
        sink.accept(token);
      }
    }
    return true;
  }

  private static boolean isInWord(char c) {
    return KINDS[c] < 0;
  }

  private static boolean joins(byte before, byte mark, byte after) {
    return switch (mark) {
      case MID_BOTH -> before == after && (before == LETTER || before == DIGIT);
      case MID_LETTER -> before == LETTER && after == LETTER;
      case MID_NUMBER -> before == DIGIT && after == DIGIT;
      default -> false;
    };
  }
}
