package org.mnemex.engine.text;

import java.lang.Character.UnicodeScript;
import java.util.Arrays;

/**
 * Chinese, Japanese and Korean text as overlapping pairs of characters, everything else as words.
 * It needs no dictionary, finds every occurrence, and finds some that are none.
 */
final class CjkPairsTokeniser implements Tokeniser {
  @Override
  public String name() {
    return "cjk_pairs";
  }

  @Override
  public void tokenise(CharSequence text, TokenSink sink) {
    String all = text.toString();
    char[] chars = all.toCharArray();
    Token token = new Token();
    int[] position = {0};
    int at = 0;
    while (at < chars.length) {
      int start = at;
      boolean cjk = isCjk(all.codePointAt(at));
      while (at < chars.length && isCjk(all.codePointAt(at)) == cjk) {
        at += Character.charCount(all.codePointAt(at));
      }
      if (cjk) {
        position[0] = pairs(all, chars, start, at, position[0], token, sink);
      } else {
        words(all, chars, start, at, position, token, sink);
      }
    }
  }

  private static void words(
      String all, char[] chars, int start, int end, int[] position, Token token, TokenSink sink) {
    int base = position[0];
    WordsTokeniser.tokeniseUnicode(
        all.substring(start, end),
        Arrays.copyOfRange(chars, start, end),
        word -> {
          position[0] = base + word.position() + 1;
          token.set(chars, start + word.start(), start + word.end(), base + word.position(), false);
          sink.accept(token);
        });
  }

  private static int pairs(
      String all, char[] chars, int start, int end, int position, Token token, TokenSink sink) {
    int at = start;
    int next = at + Character.charCount(all.codePointAt(at));
    if (next == end) {
      token.set(chars, start, end, position, false);
      sink.accept(token);
      return position + 1;
    }
    int place = position;
    while (next < end) {
      int pairEnd = next + Character.charCount(all.codePointAt(next));
      token.set(chars, at, pairEnd, place++, false);
      sink.accept(token);
      at = next;
      next = pairEnd;
    }
    return place;
  }

  private static boolean isCjk(int point) {
    if (point < 0x1100) {
      return false;
    }
    UnicodeScript script = UnicodeScript.of(point);
    return script == UnicodeScript.HAN
        || script == UnicodeScript.HIRAGANA
        || script == UnicodeScript.KATAKANA
        || script == UnicodeScript.HANGUL
        || point == 'ー';
  }
}
