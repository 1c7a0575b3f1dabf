package org.mnemex.engine.text;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Cuts a word where its kind of character changes, and gives the joined form as well: {@code
 * XR-500b} becomes {@code XR}, {@code 500}, {@code b} and {@code XR500b}; {@code leafMould} becomes
 * {@code leaf}, {@code Mould} and {@code leafMould}. Words after it move on, so that phrases fit.
 */
final class SplitWordsFilter implements TokenFilter {
  @Override
  public String name() {
    return "split_words";
  }

  @Override
  public TokenSink onto(TokenSink next) {
    return new TokenSink() {
      private int shift;

      @Override
      public void accept(Token token) {
        char[] chars = Arrays.copyOf(token.chars(), token.length());
        List<int[]> parts = parts(chars);
        int position = token.position() + shift;
        int start = token.start();
        int end = token.end();
        // Where the text is as long as the token, parts have places of their own.
        boolean exact = end - start == chars.length;
        if (parts.size() < 2) {
          if (parts.size() == 1 && parts.getFirst()[1] - parts.getFirst()[0] < chars.length) {
            token.text(Arrays.copyOfRange(chars, parts.getFirst()[0], parts.getFirst()[1]));
          }
          token.place(start, end, position);
          next.accept(token);
          return;
        }
        StringBuilder joined = new StringBuilder();
        for (int[] part : parts) {
          joined.append(chars, part[0], part[1] - part[0]);
        }
        token.text(joined.toString());
        token.place(start, end, position);
        token.span(parts.size());
        next.accept(token);
        token.span(1);
        for (int i = 0; i < parts.size(); i++) {
          int[] part = parts.get(i);
          token.text(Arrays.copyOfRange(chars, part[0], part[1]));
          token.place(exact ? start + part[0] : start, exact ? start + part[1] : end, position + i);
          next.accept(token);
        }
        shift += parts.size() - 1;
      }

      @Override
      public void end() {
        shift = 0;
        next.end();
      }
    };
  }

  private static List<int[]> parts(char[] chars) {
    List<int[]> parts = new ArrayList<>();
    int start = -1;
    for (int i = 0; i <= chars.length; i++) {
      boolean in = i < chars.length && Character.isLetterOrDigit(chars[i]);
      boolean cut = start >= 0 && (!in || changes(chars, i));
      if (cut) {
        parts.add(new int[] {start, i});
        start = -1;
      }
      if (in && start < 0) {
        start = i;
      }
    }
    return parts;
  }

  private static boolean changes(char[] chars, int at) {
    char before = chars[at - 1];
    char here = chars[at];
    if (Character.isDigit(before) != Character.isDigit(here)) {
      return true;
    }
    boolean newWord = Character.isLowerCase(before) && Character.isUpperCase(here);
    // The last capital of several begins the next word: HTMLPage is HTML and Page.
    boolean endOfCapitals =
        Character.isUpperCase(before)
            && Character.isUpperCase(here)
            && at + 1 < chars.length
            && Character.isLowerCase(chars[at + 1]);
    return newWord || endOfCapitals;
  }
}
